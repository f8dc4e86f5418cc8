import { ABSOLUTE_GATE_LUFS } from '../../loudness/gating';
import { formatNumber } from '../../units/format';
import { alarm } from './alarm';

export const loudness = alarm({
  kind: 'loudness',
  name: 'Loudness',
  words: 'Short-term loudness stays farther from the target of the spec than is tolerated.',
  isUsual: true,
  settings: {
    tolerance: { label: 'Tolerated', unit: 'LU', least: 0.5, most: 30, usual: 8 },
    seconds: { label: 'For', unit: 's', least: 1, most: 3600, usual: 20 },
  },
  holds({ readings: { shortTermLufs } }, { settings: { tolerance }, spec }) {
    if (spec.loudness?.measure !== 'integrated' || shortTermLufs === null) return null;
    // What no gate lets pass is silence, which has an alarm of its own.
    if (shortTermLufs < ABSOLUTE_GATE_LUFS) return null;
    const by = shortTermLufs - spec.loudness.target;
    return Math.abs(by) > tolerance ? { by, channels: [] } : null;
  },
  say: ({ by }) =>
    by === null
      ? 'loudness out of tolerance'
      : `short-term ${formatNumber(Math.abs(by))} LU ${by > 0 ? 'over' : 'under'} the target`,
});
