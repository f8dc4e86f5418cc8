import * as z from 'zod';
import { AppError } from '../../errors/app-error';
import { formatTime } from '../../units/format';
import { defineStep } from '../step';

/** What is left of a programme, in frames of its own rate: from the first, up to but without the other, or to the end. */
export const trimSchema = z
  .object({ startFrame: z.int().nonnegative(), endFrame: z.int().positive().nullable() })
  .refine(({ startFrame, endFrame }) => endFrame === null || endFrame > startFrame, 'nothing is left between them');
export type Trim = z.infer<typeof trimSchema>;

/** The range within a programme of so many frames; null is all of it. */
export function trimmedRange(keep: Trim | null, frames: number): { startFrame: number; endFrame: number } {
  const endFrame = Math.min(frames, keep?.endFrame ?? frames);
  return { startFrame: Math.min(endFrame, keep?.startFrame ?? 0), endFrame };
}

function describeTrim({ startFrame, endFrame }: Trim, sampleRateHz: number): string {
  const time = (frame: number) => formatTime(frame / sampleRateHz, { milliseconds: true });
  return `Trimmed to ${time(startFrame)} – ${endFrame === null ? 'the end' : time(endFrame)}`;
}

export const trimStep = defineStep({
  title: 'Trim',
  schema: trimSchema.nullable().default(null),
  stage: 'preparation',
  describe: (trim, { sourceHz }) => trim && describeTrim(trim, sourceHz),
  flags: [
    { name: 'start', value: 'T', help: 'trim: where it starts (90, 1:30, 1:02:03.250)' },
    { name: 'end', value: 'T', help: 'trim: where it ends' },
  ],
  read: (flags, { sourceHz }) => {
    const [startFrame, endFrame] = [flags.frames('start', sourceHz) ?? 0, flags.frames('end', sourceHz)];
    if (endFrame !== null && endFrame <= startFrame) {
      throw new AppError('usage', { reason: 'Nothing is left between --start and --end' });
    }
    return startFrame === 0 && endFrame === null ? null : { startFrame, endFrame };
  },
});
