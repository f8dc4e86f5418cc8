/** How stems compare with their mix, as it is stored. */
import * as z from 'zod';
import type { Fault } from '@/core/lineup/null/diagnose';
import type { Place } from '@/core/lineup/null/null-source';
import type { NullReading } from '@/core/lineup/null/null-test';
import type { BandPicture } from '@/core/lineup/null/residual-bands';
import { type Fields, level } from './fields';

export interface NullTestOutcome {
  /** The files that it speaks of: it holds as long as they are those. */
  mixSha256: string;
  stemSha256s: string[];
  /** By how many frames each stem begins later than the mix, and whether files state that. */
  offsetFrames: number[];
  isTimed: boolean;
  reading: NullReading;
}

const place = { startFrame: z.number(), endFrame: z.number() } satisfies Fields<Place>;
const fault: z.ZodType<Fault> = z.discriminatedUnion('kind', [
  z.object({ ...place, kind: z.literal(['muted', 'absent', 'soloed', 'inverted', 'processed']), stem: z.number() }),
  z.object({ ...place, kind: z.literal('twice'), stem: z.number(), twin: z.number() }),
  z.object({ ...place, kind: z.literal('shifted'), stem: z.number(), delayFrames: z.number() }),
  z.object({ ...place, kind: z.literal('gain'), stem: z.number(), gainDb: z.number() }),
  z.object({ ...place, kind: z.literal('missing') }),
]);

export const nullTestSchema = z.object({
  mixSha256: z.string(),
  stemSha256s: z.array(z.string()),
  offsetFrames: z.array(z.number()),
  isTimed: z.boolean(),
  reading: z.object({
    nulls: z.boolean(),
    residualDb: level,
    greatestResidualDb: level,
    mixDb: level,
    toleranceDb: z.number(),
    stems: z.array(
      z.object({ name: z.string(), gainDb: level, delayFrames: z.number(), isInverted: z.boolean() } satisfies Fields<
        NullReading['stems'][number]
      >),
    ),
    places: z.array(z.object({ ...place, residualDb: level } satisfies Fields<NullReading['places'][number]>)),
    faults: z.array(fault),
    bands: z.object({
      centresHz: z.array(z.number()),
      secondsPerColumn: z.number(),
      columnsDbfs: z.array(z.array(z.number())),
    } satisfies Fields<BandPicture>),
  } satisfies Fields<NullReading>),
} satisfies Fields<NullTestOutcome>);
