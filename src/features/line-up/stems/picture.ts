import type { StemsView } from '@/server/stems/null-test';

export type Test = NonNullable<StemsView['test']>;
export type Mix = NonNullable<StemsView['mix']>;

/** Lanes and what is left stand under each other: the same width, and the same edges of time. */
export const WIDTH = 1040;
export const LEFT = 176;
const RIGHT = WIDTH - 8;

/** How long what is tested is: the mix, or a stem that goes on behind it. */
export function testedFrames(mix: Mix, stems: StemsView['stems'], test: Test | null): number {
  return Math.max(mix.frames, ...stems.map(({ frames }, i) => frames + (test?.offsetFrames[i] ?? 0)));
}

/** Where a frame stands. */
export function timeScale(frames: number): (frame: number) => number {
  return (frame) => LEFT + (frame / Math.max(1, frames)) * (RIGHT - LEFT);
}
