import * as z from 'zod';

/** Named in every reading, so that a change of the meter can be told from a change of the sound. */
export const ENGINE_VERSION = '2.0.0';

const level = z.number().nullable();
const frame = z.int().nonnegative();

const channelReadingSchema = z.object({
  label: z.string(),
  truePeakDbtp: level,
  truePeakFrame: frame,
  samplePeakDbfs: level,
  samplePeakFrame: frame,
  /** Mean of the samples, as a fraction of full scale. */
  dcOffset: z.number(),
  clippedRuns: z.int().nonnegative(),
});

const passageSchema = z.object({ startFrame: frame, lufs: z.number() });

const distributionSchema = z.object({
  /** Lower edge of the first count. */
  fromLufs: z.number(),
  /** Values in each 1 LU from there. */
  counts: z.array(z.int().nonnegative()),
});

/**
 * What the meter says of a programme. A level is null where there is nothing to measure: silence, or too short.
 * Frames count from the start of the programme, at its own rate.
 */
const readingsSchema = z.object({
  engineVersion: z.string(),
  integratedLufs: level,
  /** Of a mono programme, as both of two loudspeakers play it; null for any other. */
  integratedAsTwoSpeakersLufs: level,
  loudnessRangeLu: level,
  loudnessRangeLowLufs: level,
  loudnessRangeHighLufs: level,
  /** Greatest loudness of any 400 ms, sought every 10 ms; the frame is the window's first. */
  maxMomentaryLufs: level,
  maxMomentaryFrame: frame.nullable(),
  /** Greatest loudness of any 3 s, sought every 10 ms; the frame is the window's first. */
  maxShortTermLufs: level,
  maxShortTermFrame: frame.nullable(),
  truePeakDbtp: level,
  truePeakFrame: frame,
  samplePeakDbfs: level,
  samplePeakFrame: frame,
  perChannel: z.array(channelReadingSchema),
  /** Root mean square over all channels and the whole programme, re full-scale peak: a full-scale sine is −3.01. */
  rmsDbfs: level,
  /** RMS of the quietest half-second, unweighted, re full-scale peak; null where that is digital silence. */
  noiseFloorDbfs: level,
  peakToLoudnessLu: level,
  clippedRuns: z.int().nonnegative(),
  /** The ten loudest passages of 3 s and of 10 s that don't overlap, sought every 100 ms, loudest first. */
  loudest3s: z.array(passageSchema),
  loudest10s: z.array(passageSchema),
  /** How often each short-term loudness is heard, one value every 100 ms. */
  shortTermDistribution: distributionSchema.nullable(),
});

export type ChannelReading = z.infer<typeof channelReadingSchema>;
export type Passage = z.infer<typeof passageSchema>;
export type Distribution = z.infer<typeof distributionSchema>;
export type Readings = z.infer<typeof readingsSchema>;
