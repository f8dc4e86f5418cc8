import * as z from 'zod';
import { formatSampleRate } from '../../units/format';

export const resampleHzSchema = z.int().min(8000).max(384_000);

/** Frames that a programme has at another rate. */
export function resampledFrames(frames: number, fromHz: number, toHz: number): number {
  return Math.max(1, Math.round((frames * toHz) / fromHz));
}

export function describeResample(sampleRateHz: number): string {
  return `Resampled to ${formatSampleRate(sampleRateHz)}`;
}
