/** Readings as they are stored. Fields that older engines did not know are optional. */
import * as z from 'zod';
import type { DigitalSilence } from '@/core/loudness/digital-silence';
import type { Edges } from '@/core/loudness/edges';
import type { ChannelReading, Passage, Readings } from '@/core/loudness/readings';
import { type Fields, level } from './fields';

const frame = z.number().nullable();
const passages = z.array(z.object({ startFrame: z.number(), lufs: z.number() } satisfies Fields<Passage>));

export const readingsSchema = z.object({
  engineVersion: z.string(),
  integratedLufs: level,
  integratedAsTwoSpeakersLufs: level,
  loudnessRangeLu: level,
  loudnessRangeLowLufs: level,
  loudnessRangeHighLufs: level,
  maxMomentaryLufs: level,
  maxMomentaryFrame: frame,
  maxShortTermLufs: level,
  maxShortTermFrame: frame,
  truePeakDbtp: level,
  truePeakFrame: z.number(),
  samplePeakDbfs: level,
  samplePeakFrame: z.number(),
  perChannel: z.array(
    z.object({
      label: z.string(),
      truePeakDbtp: level,
      truePeakFrame: z.number(),
      samplePeakDbfs: level,
      samplePeakFrame: z.number(),
      dcOffset: z.number(),
      clippedRuns: z.number(),
    } satisfies Fields<ChannelReading>),
  ),
  rmsDbfs: level,
  noiseFloorDbfs: level,
  digitalSilence: z
    .object({
      totalSeconds: z.number(),
      headSeconds: z.number(),
      tailSeconds: z.number(),
    } satisfies Fields<DigitalSilence>)
    .exactOptional(),
  peakToLoudnessLu: level,
  clippedRuns: z.number(),
  loudest3s: passages,
  loudest10s: passages,
  shortTermDistribution: z.object({ fromLufs: z.number(), counts: z.array(z.number()) }).nullable(),
} satisfies Fields<Readings>);

export const edgesSchema = z.object({ headSeconds: z.number(), tailSeconds: z.number() } satisfies Fields<Edges>);
