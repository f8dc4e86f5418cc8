import * as z from 'zod';
import { FILE_KINDS, RATE_MODES } from '../delivery/file-kinds';

/** What a spec's loudness is measured as. */
export const LOUDNESS_MEASURES = ['integrated', 'rms'] as const;
export const PEAK_MEASURES = ['true', 'sample'] as const;
export const TAGS_DEMANDED = ['title', 'artist', 'album', 'track', 'year', 'genre', 'isrc'] as const;

const level = z.number().min(-120).max(24);
const tolerance = z.number().min(0).max(60);
/** Within what a value must lie; either end may be open. */
const range = z
  .object({ least: z.number().nonnegative().nullable(), most: z.number().nonnegative().nullable() })
  .refine(({ least, most }) => least === null || most === null || least <= most, 'The least is above the most');

export const specSchema = z.object({
  id: z
    .string()
    .min(1)
    .max(64)
    .regex(/^[a-z0-9-]+$/, 'An id is made of small letters, digits and hyphens'),
  /** Counted from 1; every change makes the next. */
  version: z.int().positive().default(1),
  name: z.string().trim().min(1).max(80),
  basis: z.object({
    kind: z.enum(['published', 'common-practice', 'own']),
    /** The document, or what the practice rests on. */
    document: z.string().max(400),
  }),
  loudness: z
    .object({
      measure: z.enum(LOUDNESS_MEASURES),
      target: level,
      toleranceBelow: tolerance,
      toleranceAbove: tolerance,
    })
    .optional(),
  maxShortTermLufs: level.optional(),
  maxMomentaryLufs: level.optional(),
  /** In LU. */
  loudnessRange: range.optional(),
  peak: z.object({
    measure: z.enum(PEAK_MEASURES),
    ceiling: level,
    /** How far above the ceiling a peak is still accepted. */
    allowanceDb: tolerance,
  }),
  maxNoiseFloorDbfs: level.optional(),
  /** Seconds ahead of the first sound and behind the last. */
  head: range.optional(),
  tail: range.optional(),
  channels: z.array(z.int().min(1).max(24)).nonempty().optional(),
  /** Names of channel layouts, such as `5.1`. */
  layouts: z.array(z.string().max(40)).nonempty().optional(),
  sampleRatesHz: z.array(z.int().min(8000).max(384_000)).nonempty().optional(),
  bitDepths: z.array(z.int().min(8).max(64)).nonempty().optional(),
  files: z.array(z.enum(FILE_KINDS)).nonempty().optional(),
  /** Of a file that is lossy: for each channel or for all of them is not told apart. */
  bitRate: z
    .object({ leastKbps: z.int().positive().nullable(), modes: z.array(z.enum(RATE_MODES)).nonempty() })
    .optional(),
  tags: z.array(z.enum(TAGS_DEMANDED)).nonempty().optional(),
  /** No limiter, no dither, the rate and depth of the source, and all of its tail. */
  isPremaster: z.boolean().optional(),
  /** Demands that a reading of samples can't judge, in words. */
  notJudged: z.array(z.string().max(400)).default([]),
});

export type Spec = z.infer<typeof specSchema>;
