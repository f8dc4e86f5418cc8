import * as z from 'zod';
import type { GlanceLevels } from '../../loudness/readings';
import { addGain, type Level } from '../../units/decibel';
import { formatLevel, formatNumber } from '../../units/format';
import type { Assessment } from '../assessment';
import { assessCheck, assessNumber, levelField, requirement, toleranceField } from './requirement';

export const PEAK_MEASURES = ['true', 'sample'] as const;

const fields = {
  peak: z.object({
    measure: z.enum(PEAK_MEASURES),
    ceiling: levelField,
    /** How far above the ceiling a peak is still accepted. */
    allowanceDb: toleranceField,
  }),
};
type Asked = { peak: z.infer<typeof fields.peak> };
/** Whatever names a kind of peak. */
type Measured = { peak: Pick<Asked['peak'], 'measure'> };

export const peak = requirement({
  key: 'peak',
  isMovedByGain: true,
  fields,
  form: {
    title: 'Peak',
    controls: [
      { kind: 'pick', name: 'peakMeasure', label: 'Peak', options: PEAK_MEASURES },
      { kind: 'number', name: 'ceiling', label: 'Ceiling, dB', isRequired: true },
      { kind: 'number', name: 'allowance', label: 'Accepted over the ceiling, dB' },
    ],
    show: ({ peak: { measure, ceiling, allowanceDb } }) => ({
      peakMeasure: measure,
      ceiling,
      allowance: allowanceDb,
    }),
    read: (values) => ({
      peak: {
        measure: values.text('peakMeasure') as (typeof PEAK_MEASURES)[number],
        ceiling: values.number('ceiling') ?? Number.NaN,
        allowanceDb: values.number('allowance') ?? 0,
      },
    }),
  },
  describe(asked) {
    const { ceiling } = asked.peak;
    const value = `${peakName(asked).toLowerCase()} ${formatLevel(ceiling, peakUnit(asked))}${describeAllowance(asked)}`;
    return [{ name: 'Ceiling', value }];
  },
  assess: (asked, { readings }) => [assessPeak(asked, readings)],
});

/** What a spec says of a peak, of a file or of anything else that has one. */
export function assessPeak(asked: Asked, readings: GlanceLevels): Assessment {
  const { ceiling, allowanceDb } = asked.peak;
  const unit = peakUnit(asked);
  const required = `≤ ${formatLevel(ceiling, unit)}${describeAllowance(asked)}`;
  const reading = asked.peak.measure === 'true' ? ('truePeakDbtp' as const) : ('samplePeakDbfs' as const);
  const named = { key: 'peak', name: peakName(asked), reading, required };
  const measured = specPeak(readings, asked);
  // Silence breaks no ceiling.
  if (measured === null) return assessCheck(named, 'silence', true);
  const item = assessNumber({ ...named, short: 'peak' }, measured, unit, { most: ceiling + allowanceDb });
  return item.inside ? { ...item, phrase: `${peakName(asked).toLowerCase()} ${formatLevel(measured, unit)}` } : item;
}

function describeAllowance({ peak: { allowanceDb } }: Asked): string {
  return allowanceDb > 0 ? `, up to ${formatNumber(allowanceDb)} dB over accepted` : '';
}

export function peakName({ peak: { measure } }: Measured): string {
  return measure === 'true' ? 'True peak' : 'Sample peak';
}

export function peakUnit({ peak: { measure } }: Measured): 'dBTP' | 'dBFS' {
  return measure === 'true' ? 'dBTP' : 'dBFS';
}

/** The value that a spec's ceiling speaks of. */
export function specPeak(readings: GlanceLevels, { peak: { measure } }: Measured, gainDb = 0): Level {
  return addGain(measure === 'true' ? readings.truePeakDbtp : readings.samplePeakDbfs, gainDb);
}
