import * as z from 'zod';
import { formatTime } from '../../units/format';

/** What is kept of a programme, in frames of its own rate: from the first, up to but without the other, or to the end. */
export const trimSchema = z
  .object({ startFrame: z.int().nonnegative(), endFrame: z.int().positive().nullable() })
  .refine(({ startFrame, endFrame }) => endFrame === null || endFrame > startFrame, 'nothing is left between them');
export type Trim = z.infer<typeof trimSchema>;

/** The range within a programme of so many frames; null keeps all. */
export function trimmedRange(keep: Trim | null, frames: number): { startFrame: number; endFrame: number } {
  const endFrame = Math.min(frames, keep?.endFrame ?? frames);
  return { startFrame: Math.min(endFrame, keep?.startFrame ?? 0), endFrame };
}

export function describeTrim({ startFrame, endFrame }: Trim, sampleRateHz: number): string {
  const time = (frame: number) => formatTime(frame / sampleRateHz, { milliseconds: true });
  return `Kept from ${time(startFrame)} to ${endFrame === null ? 'the end' : time(endFrame)}`;
}
