/** What rows are forecast to be and what deliveries became, as they are stored. */
import * as z from 'zod';
import { type Certificate, certificateSchema } from '@/core/delivery/certificate';
import type { FileSize } from '@/core/delivery/file-size';
import { type ResolvedFormat, resolvedFormatSchema } from '@/core/delivery/format';
import type { Pass } from '@/core/delivery/next-pass';
import { type LabelledStart, startTimeCodeSchema } from '@/core/delivery/start-time-code';
import { FILE_KINDS, RATE_MODES } from '@/core/file-formats/file-formats';
import type { Tags } from '@/core/file-formats/tags';
import type { ReducedStretch, ReductionFigures } from '@/core/limiter/reduction';
import type { Readings } from '@/core/loudness/readings';
import type { Verdict } from '@/core/spec/assessment';
import type { Facts, Making, Unknown } from '@/core/spec/facts';
import { type Spec, specSchema } from '@/core/spec/spec';
import { parseStoredVerdict } from '@/core/spec/stored-verdict';
import type { Landing } from '@/core/treatment/plan-levels';
import { BINDING_LIMITS, type BindingLimit } from '@/core/treatment/solver';
import { type Treatment, treatmentSchema } from '@/core/treatment/treatment';
import { type Fields, level } from './fields';
import { readTagsSchema } from './file-report';
import { edgesSchema, readingsSchema } from './readings';

/** What a row of the sheet will be, worked out before anything is written. */
export interface RowPrediction {
  spec: Spec;
  format: ResolvedFormat;
  treatment: Treatment;
  landing: Landing | null;
  readings: Readings;
  reduction: ReductionFigures | null;
  /** All that is known of the file to be. */
  facts: Facts;
  verdict: Verdict;
  frames: number;
  size: FileSize;
  /** What stops the gain before the target, and how far; null where nothing does. */
  stop: { binding: BindingLimit; shortfallLu: number } | null;
}

export interface DeliveryOutcome {
  /** One, or one for each channel. */
  files: { fileName: string; channel: string | null; sizeBytes: number; sha256: string }[];
  /** As it was written in the end. */
  treatment: Treatment;
  passes: Pass[];
  expectedFrames: number;
  audioSha256: string;
  /** What the file says of itself; absent of older ones. */
  said?: { tags: Tags; coverSha256: string | null; timeCode: LabelledStart | null };
  /** The time code that it begins at; absent where there is none, and of older ones. */
  startTimeCode?: LabelledStart;
  /** Short-term loudness along time, as a certificate keeps it; absent of older ones. */
  curve?: Certificate['curve'];
}

export const verdictSchema = z.unknown().transform(parseStoredVerdict);

export const reductionSchema = z.object({
  greatestDb: z.number(),
  percentile95Db: z.number(),
  meanDb: z.number(),
  shareOfTime: z.number(),
  stretches: z.array(
    z.object({
      fromSeconds: z.number(),
      toSeconds: z.number(),
      greatestDb: z.number(),
    } satisfies Fields<ReducedStretch>),
  ),
} satisfies Fields<ReductionFigures>);

export const landingSchema = z.object({
  mostGainDb: z.number(),
  luPerDb: z.number(),
  mayLimitDb: z.number().exactOptional(),
  maxReductionDb: z.number().exactOptional(),
} satisfies Fields<Landing>);

const unknown = z.object({ unknown: z.string() } satisfies Fields<Unknown>);
const fact = <T>(schema: z.ZodType<T>) => z.union([unknown, schema]);

const making = z.object({
  isLimited: z.boolean(),
  isDithered: fact(z.boolean()),
  sampleRateHz: z.number(),
  bitDepth: fact(z.number().nullable()),
  isTailWhole: z.boolean(),
  source: z.object({
    sampleRateHz: z.number(),
    bitDepth: z.number().nullable(),
    sampleFormat: z.enum(['integer', 'float']),
  }),
} satisfies Fields<Making>);

const facts = z.object({
  readings: readingsSchema,
  channels: z.number(),
  sampleRateHz: z.number(),
  durationSeconds: z.number(),
  layout: fact(z.string()),
  bitDepth: fact(z.number().nullable()),
  file: fact(z.object({ kind: z.enum(FILE_KINDS).nullable(), name: z.string() })),
  bitRate: fact(z.object({ kbps: fact(z.number()), mode: fact(z.enum(RATE_MODES)) }).nullable()),
  edges: fact(edgesSchema),
  tags: fact(readTagsSchema),
  making: fact(making),
  invalidSamples: z.number(),
  damage: z.array(z.string()).readonly(),
  length: z.object({ frames: z.number(), expectedFrames: z.number() }).nullable(),
} satisfies Fields<Facts>);

export const predictionSchema = z.object({
  spec: specSchema,
  format: resolvedFormatSchema,
  treatment: treatmentSchema,
  landing: landingSchema.nullable(),
  readings: readingsSchema,
  reduction: reductionSchema.nullable(),
  facts,
  verdict: verdictSchema,
  frames: z.number(),
  size: z.object({ bytes: z.number(), isExact: z.boolean() } satisfies Fields<FileSize>),
  stop: z.object({ binding: z.enum(BINDING_LIMITS), shortfallLu: z.number() }).nullable(),
} satisfies Fields<RowPrediction>);

const pass = z.object({
  gainDb: z.number(),
  ceilingDbtp: z.number().nullable(),
  loudness: level,
  peak: level,
} satisfies Fields<Pass>);

export const outcomeSchema = z.object({
  files: z.array(
    z.object({ fileName: z.string(), channel: z.string().nullable(), sizeBytes: z.number(), sha256: z.string() }),
  ),
  treatment: treatmentSchema,
  passes: z.array(pass),
  expectedFrames: z.number(),
  audioSha256: z.string(),
  said: z
    .object({
      tags: readTagsSchema,
      coverSha256: z.string().nullable(),
      timeCode: startTimeCodeSchema.nullable().default(null),
    })
    .exactOptional(),
  startTimeCode: startTimeCodeSchema.exactOptional(),
  curve: certificateSchema.shape.curve.exactOptional(),
} satisfies Fields<DeliveryOutcome>);
