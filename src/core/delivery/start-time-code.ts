import * as z from 'zod';
import type { Treatment } from '../treatment/treatment';
import {
  framesAfterMidnight,
  parseTimeCode,
  type StartTimeCode,
  TIME_CODE_RATES,
  type TimeCodeRate,
  timeCodeAt,
} from '../units/time-code';

/** The time code that a file begins at. */
export const startTimeCodeSchema = z.object({ label: z.string().max(20), rate: z.enum(TIME_CODE_RATES) });
/** One that a person has typed: its counting has such a label. */
export const typedTimeCode = startTimeCodeSchema.refine(({ label, rate }) => parseTimeCode(label, rate) !== undefined, {
  path: ['label'],
  message: 'no time code at this rate',
});
export type LabelledStart = z.infer<typeof startTimeCodeSchema>;

/** A sound whose first frame has a label. */
export function startAtLabel({ label, rate }: LabelledStart): StartTimeCode {
  return { rate, pictureFrame: parseTimeCode(label, rate) ?? 0, offsetFrames: 0 };
}

/** When a sound begins, as its files state it. */
export interface StatedStart {
  /** How the pictures to it are counted. */
  rate: TimeCodeRate;
  /** In its frames. */
  timeReferenceFrames: number;
}

/** When a sound begins whose first frame has a label. */
export function statedStart(labelled: LabelledStart, sampleRateHz: number): StatedStart {
  const start = startAtLabel(labelled);
  return { rate: start.rate, timeReferenceFrames: framesAfterMidnight(start, sampleRateHz) };
}

/**
 * The time code of the first frame that is written of a source: what is trimmed at its start is left out, and what is added there comes
 * ahead of it.
 *
 * @param timeCode of the source; null where it has none
 */
export function startTimeCodeOf(
  timeCode: StartTimeCode | null,
  { trim, paddingStart, resampleHz }: Pick<Treatment, 'trim' | 'paddingStart' | 'resampleHz'>,
  sourceHz: number,
): LabelledStart | null {
  if (timeCode === null) return null;
  const aheadFrames = Math.round(((paddingStart?.frames ?? 0) * sourceHz) / (resampleHz ?? sourceHz));
  return { label: timeCodeAt(timeCode, (trim?.startFrame ?? 0) - aheadFrames, sourceHz), rate: timeCode.rate };
}
