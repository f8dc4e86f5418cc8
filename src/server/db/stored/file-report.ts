/** What was found of a file, as it is stored. Fields that older engines did not know are optional. */
import * as z from 'zod';
import type { Tags } from '@/core/file-formats/tags';
import type { Evidence } from '@/core/findings/evidence';
import type { Finding } from '@/core/findings/finding';
import type { Place } from '@/core/findings/place';
import type { SourceFacts } from '@/core/findings/source-facts';
import type { EdgeStep } from '@/core/inspection/edge-steps';
import type { Inspection } from '@/core/inspection/inspection';
import type { AudioFormat } from '@/formats/audio-format';
import type { FileReport } from '@/workers/protocol';
import { type Fields, level } from './fields';
import { edgesSchema, readingsSchema } from './readings';

const track = z.object({ number: z.number(), of: z.number() }).nullable();
const sampleFormat = z.enum(['integer', 'float']);

export const audioFormatSchema = z.object({
  container: z.string(),
  codec: z.string(),
  sampleRateHz: z.number(),
  bitDepth: z.number().nullable(),
  sampleFormat,
  bitRateBps: z.number().nullable(),
  bitRateMode: z.enum(['constant', 'variable']).exactOptional(),
  channels: z.number(),
  adm: z.object({ hasTimes: z.boolean(), hasObjects: z.boolean().exactOptional() }).exactOptional(),
  channelMask: z.number(),
  layout: z.string(),
  frames: z.number(),
  durationSeconds: z.number(),
  track,
  decodeErrors: z.number(),
} satisfies Fields<AudioFormat>);

/** What a file says of itself is of any length; what a person may enter is not. */
export const readTagsSchema = z.object({
  title: z.string(),
  artist: z.string(),
  album: z.string(),
  track: z.string(),
  year: z.string(),
  genre: z.string(),
  comment: z.string(),
  isrc: z.string(),
} satisfies Fields<Tags>);

const place = z.object({
  startFrame: z.number(),
  frames: z.number(),
  channel: z.string().nullable(),
} satisfies Fields<Place>);

const facts = z.object({
  sampleRateHz: z.number(),
  frames: z.number(),
  sampleFormat,
  missingFrames: z.number(),
  sizeUnknown: z.boolean(),
  nonFiniteSamples: z.number(),
  codec: z.string(),
  bitDepth: z.number().nullable(),
  bitRateBps: z.number().nullable(),
  track,
  decodeErrors: z.number(),
  usedBits: z.number().nullable(),
  treatedBefore: z.string().nullable(),
  hasObjects: z.boolean().exactOptional(),
} satisfies Fields<SourceFacts>);

const inspection = z.object({
  bandEdgeHz: z.number().nullable(),
  singleRateDropDb: z.number().nullable(),
  pair: z.object({ correlation: z.number(), monoLossDb: z.number() }).nullable(),
  edges: z.array(
    z.object({
      edge: z.enum(['start', 'end']),
      kind: z.enum(['step', 'spike']),
      channel: z.number(),
      height: z.number(),
      frames: z.number(),
    } satisfies Fields<EdgeStep>),
  ),
  pause: z.object({ startFrame: z.number(), frames: z.number(), rmsDbfs: z.number(), isNoise: z.boolean() }).nullable(),
} satisfies Fields<Inspection>);

const evidence = z.object({
  facts,
  inspection,
  pair: z.enum(['same', 'inverted', 'different']).nullable(),
  leftOverRightLu: z.number().nullable(),
  sound: z.object({
    startFrame: z.number(),
    endFrame: z.number(),
    lastFrame: z.number(),
    endingStartFrame: z.number(),
    endingLufs: level,
  }),
  clipped: z.object({ first: z.array(place), longest: place }).nullable(),
} satisfies Fields<Evidence>);

const finding = z.object({
  code: z.string(),
  severity: z.enum(['breach', 'advice']),
  message: z.string(),
  places: z.array(place),
} satisfies Fields<Finding>);

export const fileReportSchema = z.object({
  format: audioFormatSchema,
  readings: readingsSchema,
  evidence: evidence.exactOptional(),
  findings: z.array(finding).exactOptional(),
  edges: edgesSchema.exactOptional(),
  nonFiniteSamples: z.number(),
  missingFrames: z.number().exactOptional(),
  tags: readTagsSchema.exactOptional(),
  sizeBytes: z.number(),
  sha256: z.string().nullable(),
} satisfies Fields<FileReport>);
