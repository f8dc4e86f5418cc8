import { formatLevel } from '../../units/format';
import { assessNumber, levelField, notAssessed, requirement } from './requirement';

export const noiseFloor = requirement({
  key: 'noise-floor',
  isMovedByGain: false,
  fields: { maxNoiseFloorDbfs: levelField.optional() },
  form: {
    title: 'Limits',
    controls: [{ kind: 'number', name: 'noise', label: 'Noise floor, dBFS' }],
    show: ({ maxNoiseFloorDbfs }) => ({ noise: maxNoiseFloorDbfs }),
    read: (values) => ({ maxNoiseFloorDbfs: values.number('noise') }),
  },
  describe: ({ maxNoiseFloorDbfs: most }) => [
    { name: 'Noise floor', value: most === undefined ? '' : `${formatLevel(most, 'dBFS')} or less` },
  ],
  assess({ maxNoiseFloorDbfs: most }, { readings: { noiseFloorDbfs } }) {
    if (most === undefined) return [];
    const reading = 'noiseFloorDbfs' as const;
    const named = { key: 'noise-floor', name: 'Noise floor', reading, required: `≤ ${formatLevel(most, 'dBFS')}` };
    if (noiseFloorDbfs === null) return [notAssessed(named, 'no half-second without digital silence')];
    return [assessNumber(named, noiseFloorDbfs, 'dBFS', { most })];
  },
});
