import { formatGain, formatNumber } from '../../units/format';
import type { Fault } from './diagnose';
import { faultMessages as messages } from './messages';

/** A fault in a sentence or two. */
export function faultWords(fault: Fault, names: readonly string[], sampleRateHz: number): string {
  const name = (stem: number) => names[stem] ?? `${stem + 1}`;
  switch (fault.kind) {
    case 'muted':
    case 'absent':
    case 'soloed':
    case 'inverted':
    case 'processed':
      return messages[fault.kind](name(fault.stem));
    case 'twice':
      return messages.twice(name(fault.stem), name(fault.twin));
    case 'shifted': {
      const frames = Math.abs(fault.delayFrames);
      const milliseconds = formatNumber((1000 * frames) / sampleRateHz, 2);
      const say = fault.delayFrames > 0 ? messages.shiftedLater : messages.shiftedEarlier;
      return say(name(fault.stem), frames, milliseconds);
    }
    case 'gain':
      return messages.gain(name(fault.stem), formatGain(fault.gainDb, 2));
    case 'missing':
      return messages.missing;
  }
}
