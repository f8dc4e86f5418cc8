import { rangeControls, showRange } from './form';
import { assessNumber, describeRange, rangeField, requirement } from './requirement';

export const duration = requirement({
  key: 'duration',
  isMovedByGain: false,
  fields: {
    /** How long the programme is, in seconds. */
    durationSeconds: rangeField.optional(),
  },
  form: {
    title: 'Duration, seconds',
    controls: rangeControls('duration', 'From', 'To'),
    show: ({ durationSeconds }) => showRange('duration', durationSeconds),
    read: (values) => ({ durationSeconds: values.range('duration') }),
  },
  describe: ({ durationSeconds: range }) => [{ name: 'Duration', value: range ? describeRange(range, 's') : '' }],
  assess({ durationSeconds: range }, { durationSeconds }) {
    if (!range) return [];
    const named = { key: 'duration', name: 'Duration', required: describeRange(range, 's') };
    return [assessNumber(named, durationSeconds, 's', range)];
  },
});
