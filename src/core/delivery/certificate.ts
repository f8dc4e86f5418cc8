import * as z from 'zod';
import type { Readings } from '../loudness/readings';
import { specSchema } from '../spec/spec';
import { resolvedFormatSchema } from './format';
import { startTimeCodeSchema } from './start-time-code';

const level = z.number().nullable();
const hash = z.string().regex(/^[0-9a-f]{64}$/);

/** What a certificate says of its readings: those that a spec can ask for, and the rest that engineers look at. */
export const certifiedReadings = z.object({
  engineVersion: z.string(),
  integratedLufs: level,
  loudnessRangeLu: level,
  maxMomentaryLufs: level,
  maxShortTermLufs: level,
  truePeakDbtp: level,
  samplePeakDbfs: level,
  rmsDbfs: level,
  noiseFloorDbfs: level,
  peakToLoudnessLu: level,
});

/** Those of all readings that a certificate has. */
export function certifiedReadingsOf(readings: Readings): z.infer<typeof certifiedReadings> {
  return certifiedReadings.parse(readings);
}

/** What was measured of which bytes, against which version of which spec. */
export const certificateSchema = z.object({
  certificate: z.literal('opsimeter'),
  version: z.literal(1),
  issuedAt: z.iso.datetime(),
  job: z.string(),
  programme: z.string(),
  /** Line-ups that the programme is in, and its place in each, counted from 1. Absent in older ones. */
  partOf: z
    .array(z.object({ name: z.string(), kind: z.string(), place: z.int().positive(), of: z.int().positive() }))
    .default([]),
  source: z.object({ fileName: z.string(), sha256: hash }),
  spec: specSchema,
  inside: z.boolean(),
  /** Why it is handed over although it misses; null where it does not, or nobody has said. */
  acceptedReason: z.string().nullable(),
  /** Who has said so, where people sign in. Absent in older ones. */
  acceptedBy: z.string().nullable().default(null),
  /** Who has approved the file, where people sign in; null where nobody has. Absent in older ones. */
  approved: z.object({ by: z.string(), at: z.iso.datetime() }).nullable().default(null),
  writtenAt: z.iso.datetime(),
  files: z
    .array(
      z.object({
        fileName: z.string(),
        channel: z.string().nullable(),
        sizeBytes: z.int().nonnegative(),
        sha256: hash,
      }),
    )
    .min(1),
  format: resolvedFormatSchema,
  /** In a few words. */
  formatText: z.string(),
  layout: z.string(),
  frames: z.int().positive(),
  durationSeconds: z.number().positive(),
  /** Of a film's sound: the time code that the file begins at. Null where there is none; absent in older ones. */
  startTimeCode: startTimeCodeSchema.nullable().default(null),
  /** Of the samples as they were read back: of what is lossy they are this decoder's. */
  audioSha256: hash.nullable(),
  readings: certifiedReadings,
  /** Each thing that the spec asks for, what was found, and whether that is inside. */
  checks: z.array(z.object({ name: z.string(), found: z.string(), required: z.string(), inside: z.boolean() })),
  notJudged: z.array(z.string()),
  /** Every step in words, in order. */
  treatment: z.array(z.string()),
  treatmentVersion: z.int().nonnegative(),
  /** Greatest reduction of its limiter in dB; null where there was none. */
  reductionDb: level,
  /** Short-term loudness along time, evenly spaced; null where there is none yet. */
  curve: z.object({ secondsEach: z.number().positive(), shortTermLufs: z.array(level) }).nullable(),
});
export type Certificate = z.infer<typeof certificateSchema>;

/** So many values are enough for a curve on paper. */
const CURVE_VALUES = 400;

/** A curve of one value every 100 ms, cut to what is kept with a certificate: the greatest of each stretch. */
export function certifiedCurve(shortTerm: ArrayLike<number>, secondsEach: number): NonNullable<Certificate['curve']> {
  const stride = Math.max(1, Math.ceil(shortTerm.length / CURVE_VALUES));
  const shortTermLufs: (number | null)[] = [];
  for (let start = 0; start < shortTerm.length; start += stride) {
    let greatest = Number.NEGATIVE_INFINITY;
    for (let i = start; i < Math.min(shortTerm.length, start + stride); i++) {
      const value = shortTerm[i] as number;
      if (value > greatest) greatest = value;
    }
    shortTermLufs.push(Number.isFinite(greatest) ? Math.round(100 * greatest) / 100 : null);
  }
  return { secondsEach: secondsEach * stride, shortTermLufs };
}
