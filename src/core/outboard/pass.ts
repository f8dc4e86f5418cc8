import * as z from 'zod';
import { treatmentSchema } from '../treatment/treatment';

/** What comes back of outboard gear later than this is not looked for. So much is recorded behind the end. */
export const MOST_DELAY_SECONDS = 1.5;

/** A pass through outboard gear, as it begins. */
export const passFields = z.object({
  /** What people call what is sent, such as "v2". */
  sentName: z.string().trim().min(1).max(200),
  treatment: treatmentSchema,
  sampleRateHz: z.int().min(8000).max(384_000),
  /** That are sent; as many come back. */
  channels: z.int().min(1).max(24),
  /** Of what is sent. */
  frames: z.int().min(1),
});

export type PassFields = z.infer<typeof passFields>;
