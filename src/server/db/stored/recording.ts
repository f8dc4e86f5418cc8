import * as z from 'zod';
import type { RecordingState } from '@/workers/line-protocol';
import type { Fields } from './fields';

/** What is known of a recording as it goes on. */
export type RecordingFacts = Omit<RecordingState, 'recordingId' | 'failure'>;

export const recordingFactsSchema = z.object({
  sampleRateHz: z.number(),
  frames: z.number(),
  clippedSamples: z.number(),
  gaps: z.array(z.object({ startFrame: z.number(), frames: z.number() })),
  markerFrames: z.array(z.number()),
} satisfies Fields<RecordingFacts>);
