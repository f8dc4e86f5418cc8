import * as z from 'zod';
import type { Readings } from '../../loudness/readings';
import type { Level } from '../../units/decibel';
import { formatNumber } from '../../units/format';
import { assessNumber, levelField, notAssessed, requirement, toleranceField } from './requirement';

/** What a spec's loudness is measured as. */
export const LOUDNESS_MEASURES = ['integrated', 'rms'] as const;

const fields = {
  loudness: z
    .object({
      measure: z.enum(LOUDNESS_MEASURES),
      target: levelField,
      toleranceBelow: toleranceField,
      toleranceAbove: toleranceField,
    })
    .optional(),
};
type Loudness = NonNullable<z.infer<typeof fields.loudness>>;

export const loudness = requirement({
  key: 'loudness',
  fields,
  describe: ({ loudness: asked }) => [
    {
      name: 'Loudness',
      value: asked ? `${formatNumber(asked.target)} ${unitOf(asked)}${describeTolerance(asked)}` : '',
    },
    { name: 'Measured as', value: asked ? (asked.measure === 'rms' ? 'RMS' : 'integrated') : '' },
  ],
  assess({ loudness: asked }, { readings }) {
    if (!asked) return [];
    const { measure, target, toleranceBelow, toleranceAbove } = asked;
    const unit = unitOf(asked);
    const named = {
      key: 'loudness',
      reading: measure === 'rms' ? ('rmsDbfs' as const) : ('integratedLufs' as const),
      name: measure === 'rms' ? 'RMS' : 'Integrated',
      required:
        toleranceBelow === toleranceAbove
          ? `${formatNumber(target)} ±${formatNumber(toleranceAbove)} ${unit}`
          : `${formatNumber(target - toleranceBelow)} to ${formatNumber(target + toleranceAbove)} ${unit}`,
    };
    const measured = specLoudness(readings, { loudness: asked });
    if (measured === null) {
      const why = measure === 'rms' ? 'there is only silence' : 'silence, or shorter than 0.4 s';
      return [{ ...notAssessed(named, why), phrase: 'no loudness to measure' }];
    }
    const item = assessNumber(named, measured, unit, { least: target - toleranceBelow, most: target + toleranceAbove });
    const offTarget = measured - target;
    const phrase = item.inside
      ? `on target at ${formatNumber(measured)} ${unit}${measure === 'rms' ? ' RMS' : ''}`
      : `${formatNumber(Math.abs(offTarget))} ${measure === 'rms' ? 'dB' : 'LU'} ${offTarget > 0 ? 'over' : 'under'}`;
    return [{ ...item, phrase }];
  },
});

function unitOf({ measure }: Loudness): 'dBFS' | 'LUFS' {
  return measure === 'rms' ? 'dBFS' : 'LUFS';
}

function describeTolerance({ measure, toleranceBelow, toleranceAbove }: Loudness): string {
  const unit = measure === 'rms' ? 'dB' : 'LU';
  return toleranceBelow === toleranceAbove
    ? ` ±${formatNumber(toleranceAbove)} ${unit}`
    : `, ${formatNumber(toleranceBelow)} ${unit} below to ${formatNumber(toleranceAbove)} ${unit} above`;
}

/** The value that a spec's loudness target speaks of. */
export function specLoudness(
  readings: Readings,
  { loudness: asked }: { loudness?: { measure: Loudness['measure'] } | undefined },
): Level {
  return asked?.measure === 'rms' ? readings.rmsDbfs : readings.integratedLufs;
}
