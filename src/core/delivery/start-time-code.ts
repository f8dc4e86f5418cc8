import * as z from 'zod';
import type { Treatment } from '../treatment/treatment';
import { type StartTimeCode, TIME_CODE_RATES, timeCodeAt } from '../units/time-code';

/** The time code that a file begins at. */
export const startTimeCodeSchema = z.object({ label: z.string().max(20), rate: z.enum(TIME_CODE_RATES) });
export type LabelledStart = z.infer<typeof startTimeCodeSchema>;

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
