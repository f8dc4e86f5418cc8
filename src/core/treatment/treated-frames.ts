import { resampledFrames } from './steps/resample';
import { trimmedRange } from './steps/trim';
import type { Treatment } from './treatment';

/** How many frames a treatment makes of a source, at the rate that it is written at. */
export function treatedFrames(
  { trim, resampleHz, paddingStart, paddingEnd }: Treatment,
  source: { frames: number; sampleRateHz: number },
): number {
  const { startFrame, endFrame } = trimmedRange(trim, source.frames);
  const body = resampledFrames(endFrame - startFrame, source.sampleRateHz, resampleHz ?? source.sampleRateHz);
  return (paddingStart?.frames ?? 0) + body + (paddingEnd?.frames ?? 0);
}
