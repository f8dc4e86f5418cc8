import { rangeControls, showRange } from './form';
import { assessNumber, describeRange, notAssessed, rangeField, requirement } from './requirement';

export const loudnessRange = requirement({
  key: 'loudness-range',
  isMovedByGain: false,
  fields: {
    /** In LU. */
    loudnessRange: rangeField.optional(),
  },
  form: {
    title: 'Limits',
    controls: rangeControls('range', 'Range from, LU', 'Range to, LU'),
    show: ({ loudnessRange: range }) => showRange('range', range),
    read: (values) => ({ loudnessRange: values.range('range') }),
  },
  describe: ({ loudnessRange: range }) => [{ name: 'Loudness range', value: range ? describeRange(range, 'LU') : '' }],
  assess({ loudnessRange: range }, { readings }) {
    if (!range) return [];
    const reading = 'loudnessRangeLu' as const;
    const named = { key: 'loudness-range', name: 'Loudness range', reading, required: describeRange(range, 'LU') };
    const { loudnessRangeLu } = readings;
    if (loudnessRangeLu === null) return [notAssessed(named, 'silence, or shorter than 3 s')];
    return [assessNumber(named, loudnessRangeLu, 'LU', range)];
  },
});
