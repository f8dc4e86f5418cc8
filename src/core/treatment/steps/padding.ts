import * as z from 'zod';
import { defineStep, rescaleFrames, type StepFlag } from '../step';

export const PADDING_KINDS = ['silence', 'room-tone'] as const;

/** What is added at the start or the end of a programme: digital silence, or its own room tone. */
export const paddingSchema = z.object({
  frames: z.int().positive(),
  kind: z.enum(PADDING_KINDS),
  /** Where in the source room tone is taken from, by hand; absent where it is found. */
  toneStartFrame: z.int().nonnegative().optional(),
});
export type Padding = z.infer<typeof paddingSchema>;

const ROOM_TONE_FLAG: StepFlag = { name: 'room-tone', help: "pad with the file's own room tone, not with silence" };

/** Added once the channels are what they are to be: it has the gain of what it is taken from. */
function paddingStep(where: 'start' | 'end') {
  const name = `padding-${where}`;
  return defineStep({
    title: `Padding at the ${where}`,
    schema: paddingSchema.nullable().default(null),
    stage: 'preparation',
    describe: (padding, { writtenHz }) => {
      if (!padding) return null;
      const seconds = Number((padding.frames / writtenHz).toFixed(3));
      return `${seconds} s of ${padding.kind === 'silence' ? 'silence' : 'room tone'} added at the ${where}`;
    },
    rescale: rescaleFrames,
    flags: [{ name, value: 'T', help: `silence added at the ${where}` }, ...(where === 'end' ? [ROOM_TONE_FLAG] : [])],
    read: (flags, { writtenHz }) => {
      const frames = flags.frames(name, writtenHz);
      return frames ? { frames, kind: flags.isOn('room-tone') ? ('room-tone' as const) : ('silence' as const) } : null;
    },
  });
}

export const paddingStartStep = paddingStep('start');
export const paddingEndStep = paddingStep('end');
