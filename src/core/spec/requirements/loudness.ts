import * as z from 'zod';
import type { GlanceLevels } from '../../loudness/readings';
import type { Level } from '../../units/decibel';
import { formatNumber } from '../../units/format';
import type { Assessment } from '../assessment';
import { assessNumber, levelField, notAssessed, requirement, toleranceField } from './requirement';

/** What a spec's loudness is measured as. */
const LOUDNESS_MEASURES = ['integrated', 'rms'] as const;

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
  isMovedByGain: true,
  fields,
  form: {
    title: 'Loudness',
    controls: [
      { kind: 'pick', name: 'measure', label: 'Measured as', options: ['', ...LOUDNESS_MEASURES] },
      { kind: 'number', name: 'target', label: 'Target' },
      { kind: 'number', name: 'below', label: 'LU below' },
      { kind: 'number', name: 'above', label: 'LU above' },
    ],
    show: ({ loudness: asked }) => ({
      measure: asked?.measure ?? '',
      target: asked?.target,
      below: asked?.toleranceBelow,
      above: asked?.toleranceAbove,
    }),
    read: (values) => {
      const measure = values.text('measure') as (typeof LOUDNESS_MEASURES)[number] | '';
      if (measure === '') return { loudness: undefined };
      return {
        loudness: {
          measure,
          target: values.number('target') ?? Number.NaN,
          toleranceBelow: values.number('below') ?? 0,
          toleranceAbove: values.number('above') ?? 0,
        },
      };
    },
  },
  describe: ({ loudness: asked }) => [
    {
      name: 'Loudness',
      value: asked ? `${formatNumber(asked.target)} ${unitOf(asked)}${describeTolerance(asked)}` : '',
    },
    { name: 'Measured as', value: asked ? (asked.measure === 'rms' ? 'RMS' : 'integrated') : '' },
  ],
  assess: ({ loudness: asked }, { readings }) => (asked ? [assessLoudness(asked, readings)] : []),
});

/** What a spec says of a loudness, of a file or of anything else that has one. */
export function assessLoudness(asked: Loudness, readings: GlanceLevels): Assessment {
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
    return { ...notAssessed(named, why), phrase: 'no loudness to measure' };
  }
  const item = assessNumber(named, measured, unit, { least: target - toleranceBelow, most: target + toleranceAbove });
  const offTarget = measured - target;
  const phrase = item.inside
    ? `on target at ${formatNumber(measured)} ${unit}${measure === 'rms' ? ' RMS' : ''}`
    : `${formatNumber(Math.abs(offTarget))} ${measure === 'rms' ? 'dB' : 'LU'} ${offTarget > 0 ? 'over' : 'under'}`;
  return { ...item, phrase };
}

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
  readings: GlanceLevels,
  { loudness: asked }: { loudness?: { measure: Loudness['measure'] } | undefined },
): Level {
  return asked?.measure === 'rms' ? readings.rmsDbfs : readings.integratedLufs;
}
