import type { Assessment } from '../assessment';
import type { Facts } from '../facts';
import { assessCheck } from './requirement';

/** What every spec asks for without a word: a file that is whole. Nothing is said of it where it is. */
export function assessWhole({ invalidSamples, damage, length }: Facts): Assessment[] {
  const items: Assessment[] = [];
  if (invalidSamples > 0) {
    const named = { key: 'invalid-samples', name: 'Invalid samples', required: 'none' };
    items.push({
      ...assessCheck(named, `${invalidSamples}`, false),
      measured: invalidSamples,
      unit: 'samples',
      phrase: `${invalidSamples} invalid samples`,
    });
  }
  if (damage.length > 0) {
    const named = { key: 'damage', name: 'Damage', required: 'none' };
    items.push({ ...assessCheck(named, damage.join(', '), false), phrase: `damaged: ${damage.join(', ')}` });
  }
  if (length) {
    const named = { key: 'length', name: 'Length', required: `${length.expectedFrames} frames` };
    items.push(assessCheck(named, `${length.frames} frames`, length.frames === length.expectedFrames));
  }
  return items;
}
