/** A pass through outboard gear, as it is stored. */
import * as z from 'zod';
import type { DropOut } from '@/core/outboard/drop-outs';
import { type Treatment, treatmentSchema } from '@/core/treatment/treatment';
import type { PassReading } from '@/workers/protocol';
import { type Fields, level } from './fields';

/** What was sent, and where it lies in what was recorded. */
export interface PassOrder {
  /** What people call what was sent, such as "v2". */
  sentName: string;
  treatment: Treatment;
  sampleRateHz: number;
  channels: number;
  /** Of what was sent, and where its first lies in what was recorded. */
  frames: number;
  firstFrame: number;
}

export const passOrderSchema = z.object({
  sentName: z.string(),
  treatment: treatmentSchema,
  sampleRateHz: z.number(),
  channels: z.number(),
  frames: z.number(),
  firstFrame: z.number(),
} satisfies Fields<PassOrder>);

export const passReadingSchema = z.object({
  delayFrames: z.number(),
  likeness: z.number(),
  isInverted: z.boolean(),
  heldPlaces: z.number(),
  places: z.number(),
  shifts: z.array(
    z.object({ startFrame: z.number(), endFrame: z.number(), byFrames: z.number() } satisfies Fields<
      PassReading['shifts'][number]
    >),
  ),
  driftPpm: level,
  gainDb: level,
  peakDbfs: level,
  dropOuts: z.array(z.object({ startFrame: z.number(), frames: z.number() } satisfies Fields<DropOut>)),
} satisfies Fields<PassReading>);
