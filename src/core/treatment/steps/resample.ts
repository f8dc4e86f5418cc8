import * as z from 'zod';
import { formatSampleRate } from '../../units/format';
import { defineStep, type FlagReader } from '../step';

const LEAST_HZ = 8000;
const MOST_HZ = 384_000;

/** Frames that a programme has at another rate. */
export function resampledFrames(frames: number, fromHz: number, toHz: number): number {
  return Math.max(1, Math.round((frames * toHz) / fromHz));
}

export const resampleStep = defineStep({
  title: 'Rate',
  schema: z.int().min(LEAST_HZ).max(MOST_HZ).nullable().default(null),
  stage: 'preparation',
  describe: (rateHz) => (rateHz === null ? null : `Resampled to ${formatSampleRate(rateHz)}`),
  flags: [{ name: 'rate', value: 'HZ', help: 'resample (soxr, through FFmpeg)' }],
  // A kind of file that is not written at the source's rate has set one already.
  read: (_, { sourceHz, writtenHz }) => (writtenHz === sourceHz ? null : writtenHz),
});

/** The rate that the flags ask for; null where they ask for none. */
export function readRateHz(flags: FlagReader): number | null {
  return flags.number('rate', LEAST_HZ, MOST_HZ);
}
