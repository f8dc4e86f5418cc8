import * as z from 'zod';
import { formatTime } from '../../units/format';

/** What is kept of a programme, in frames of its own rate: from the first, up to but without the other, or to the end. */
export const keepSchema = z
  .object({ startFrame: z.int().nonnegative(), endFrame: z.int().positive().nullable() })
  .refine(({ startFrame, endFrame }) => endFrame === null || endFrame > startFrame, 'nothing is left between them');
export type Keep = z.infer<typeof keepSchema>;

/** The range within a programme of so many frames; null keeps all. */
export function keptRange(keep: Keep | null, frames: number): { startFrame: number; endFrame: number } {
  const endFrame = Math.min(frames, keep?.endFrame ?? frames);
  return { startFrame: Math.min(endFrame, keep?.startFrame ?? 0), endFrame };
}

export function describeKeep({ startFrame, endFrame }: Keep, sampleRateHz: number): string {
  const time = (frame: number) => formatTime(frame / sampleRateHz, { milliseconds: true });
  return `Kept from ${time(startFrame)} to ${endFrame === null ? 'the end' : time(endFrame)}`;
}
