import * as z from 'zod';

/** What a spec's loudness is measured as. */
const LOUDNESS_MEASURES = ['integrated', 'rms'] as const;
const PEAK_MEASURES = ['true', 'sample'] as const;

export const specSchema = z.object({
  id: z.string(),
  name: z.string(),
  basis: z.object({
    kind: z.enum(['published', 'common-practice']),
    /** The document, or what the practice rests on. */
    document: z.string(),
  }),
  loudness: z
    .object({
      measure: z.enum(LOUDNESS_MEASURES),
      target: z.number(),
      toleranceBelow: z.number().nonnegative(),
      toleranceAbove: z.number().nonnegative(),
    })
    .optional(),
  maxShortTermLufs: z.number().optional(),
  maxMomentaryLufs: z.number().optional(),
  peak: z.object({
    measure: z.enum(PEAK_MEASURES),
    ceiling: z.number(),
    /** How far above the ceiling a peak is still accepted. */
    allowanceDb: z.number().nonnegative(),
  }),
  maxNoiseFloorDbfs: z.number().optional(),
  channels: z.array(z.int()).optional(),
  sampleRatesHz: z.array(z.int()).optional(),
  bitDepths: z.array(z.int()).optional(),
  /** Demands that a reading of samples can't judge, in words. */
  notJudged: z.array(z.string()),
});

export type Spec = z.infer<typeof specSchema>;
