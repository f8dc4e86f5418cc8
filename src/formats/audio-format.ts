import * as z from 'zod';

/** The format of an audio file, as pages, the command and certificates state it. */
const audioFormatSchema = z.object({
  container: z.enum(['WAV', 'RIFX', 'RF64', 'BW64']),
  codec: z.literal('PCM'),
  sampleRateHz: z.int(),
  bitDepth: z.int(),
  sampleFormat: z.enum(['integer', 'float']),
  channels: z.int(),
  /** The file's own channel mask; 0 where it states none. */
  channelMask: z.int(),
  layout: z.string(),
  frames: z.int(),
  durationSeconds: z.number(),
});

export type AudioFormat = z.infer<typeof audioFormatSchema>;
