import * as z from 'zod';
import { defineStep, rescaleFrames, type StepFlag } from '../step';

export const FADE_SHAPES = ['linear', 'equal-power', 's-curve', 'exponential'] as const;
export type FadeShape = (typeof FADE_SHAPES)[number];

const fadeSchema = z.object({ frames: z.int().positive(), shape: z.enum(FADE_SHAPES) });
export type Fade = z.infer<typeof fadeSchema>;

const SHAPE_NAMES: Readonly<Record<FadeShape, string>> = {
  linear: 'linear',
  'equal-power': 'at equal power',
  's-curve': 'in an S-curve',
  exponential: 'exponential',
};

function describeFade({ frames, shape }: Fade, where: 'in' | 'out', sampleRateHz: number): string {
  return `Fade ${where} over ${Number((frames / sampleRateHz).toFixed(3))} s, ${SHAPE_NAMES[shape]}`;
}

/** Where an exponential fade begins: 60 dB down, whence a straight line leads to silence (common practice, no source). */
const EXPONENTIAL_DEPTH_DB = 60;

/**
 * How much is left at a place within a fade in: 0 at its beginning, 1 at its end. A fade out is the same backwards.
 *
 * Linear adds to 1 with its mirror image in amplitude, equal-power in power; the S-curve is a raised cosine; the
 * exponential is straight in decibels, but for its first hundredth.
 */
export function fadeGain(shape: FadeShape, place: number): number {
  if (place <= 0) return 0;
  if (place >= 1) return 1;
  switch (shape) {
    case 'linear':
      return place;
    case 'equal-power':
      return Math.sin((Math.PI / 2) * place);
    case 's-curve':
      return 0.5 - 0.5 * Math.cos(Math.PI * place);
    case 'exponential': {
      const knee = 0.01;
      const atKnee = 10 ** (-(EXPONENTIAL_DEPTH_DB * (1 - knee)) / 20);
      if (place < knee) return (place / knee) * atKnee;
      return 10 ** (-(EXPONENTIAL_DEPTH_DB * (1 - place)) / 20);
    }
  }
}

export interface Fades {
  fadeIn?: Fade | null | undefined;
  fadeOut?: Fade | null | undefined;
  paddingStart?: number;
  paddingEnd?: number;
}

/**
 * Fades a programme of `programmeFrames` in and out, in place. A fade in begins with silence at the first frame and is
 * complete at the end of its last; a fade out ends with silence at the programme's last frame. Where digital silence was
 * added, what is faded lies within it: from `head` frames on, to `tail` frames before the end.
 *
 * @param startFrame of the first of the frames given, in the programme
 */
export function applyFades(
  channels: readonly Float32Array[],
  frames: number,
  startFrame: number,
  programmeFrames: number,
  { fadeIn, fadeOut, paddingStart = 0, paddingEnd = 0 }: Fades,
): void {
  const scale = (n: number, gain: number) => {
    for (const samples of channels) samples[n] = (samples[n] as number) * gain;
  };
  if (fadeIn) {
    const end = Math.min(frames, paddingStart + fadeIn.frames - startFrame);
    for (let n = 0; n < end; n++) scale(n, fadeGain(fadeIn.shape, (startFrame + n - paddingStart) / fadeIn.frames));
  }
  if (fadeOut) {
    const last = programmeFrames - paddingEnd - 1;
    const first = Math.max(0, last + 1 - fadeOut.frames - startFrame);
    for (let n = first; n < frames; n++) {
      scale(n, fadeGain(fadeOut.shape, (last - startFrame - n) / fadeOut.frames));
    }
  }
}

const SHAPE_FLAG: StepFlag = { name: 'fade-shape', value: 'SHAPE', help: FADE_SHAPES.join(', ') };

function fadeStep(where: 'in' | 'out') {
  const name = `fade-${where}`;
  return defineStep({
    title: `Fade ${where}`,
    schema: fadeSchema.nullable().default(null),
    stage: 'finish',
    describe: (fade, { writtenHz }) => fade && describeFade(fade, where, writtenHz),
    rescale: rescaleFrames,
    // Both have one shape.
    flags: [{ name, value: 'T', help: `fade ${where} over so long` }, ...(where === 'out' ? [SHAPE_FLAG] : [])],
    read: (flags, { writtenHz }) => {
      const frames = flags.frames(name, writtenHz);
      return frames ? { frames, shape: flags.choice('fade-shape', FADE_SHAPES, 'equal-power') } : null;
    },
  });
}

export const fadeInStep = fadeStep('in');
export const fadeOutStep = fadeStep('out');
