import { formatTime } from '@/core/units/format';

/** The stretch of the timeline that is shown, in frames of the source; any fraction of one. */
export interface View {
  startFrame: number;
  endFrame: number;
}

/** Closer there is nothing more to see than a sample and its neighbours. */
export const LEAST_SHOWN_FRAMES = 16;

/** A stretch of whole frames. */
export interface Span {
  startFrame: number;
  endFrame: number;
}

export function xOf({ startFrame, endFrame }: View, width: number, frame: number): number {
  return ((frame - startFrame) / (endFrame - startFrame)) * width;
}

export function frameAt({ startFrame, endFrame }: View, width: number, x: number): number {
  return startFrame + (x / width) * (endFrame - startFrame);
}

/** Shows a stretch as long as wanted, as near to where it was wanted as the whole allows. */
export function within(view: View, whole: View): View {
  const most = whole.endFrame - whole.startFrame;
  const length = Math.min(most, Math.max(Math.min(LEAST_SHOWN_FRAMES, most), view.endFrame - view.startFrame));
  const startFrame = Math.min(whole.endFrame - length, Math.max(whole.startFrame, view.startFrame));
  return { startFrame, endFrame: startFrame + length };
}

/** Shows `factor` times as much, with a frame staying where it is. */
export function zoomed(view: View, whole: View, aroundFrame: number, factor: number): View {
  const length = view.endFrame - view.startFrame;
  const most = whole.endFrame - whole.startFrame;
  const next = Math.min(most, Math.max(Math.min(LEAST_SHOWN_FRAMES, most), length * factor));
  const startFrame = aroundFrame - ((aroundFrame - view.startFrame) / length) * next;
  return within({ startFrame, endFrame: startFrame + next }, whole);
}

/** @param share of what is shown that one moves on by */
export function panned(view: View, whole: View, share: number): View {
  const by = share * (view.endFrame - view.startFrame);
  return within({ startFrame: view.startFrame + by, endFrame: view.endFrame + by }, whole);
}

/** Brings a frame into view without changing how much is shown. */
export function broughtIn(view: View, whole: View, frame: number): View {
  if (frame >= view.startFrame && frame <= view.endFrame) return view;
  const half = (view.endFrame - view.startFrame) / 2;
  return within({ startFrame: frame - half, endFrame: frame + half }, whole);
}

export interface Tick {
  frame: number;
  text: string;
}

const TICK_SECONDS = [
  1e-5, 2e-5, 5e-5, 1e-4, 2e-4, 5e-4, 1e-3, 2e-3, 5e-3, 0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 15, 30, 60, 120,
  300, 600, 900, 1800, 3600,
];
const LEAST_TICK_PIXELS = 96;

/** Times at round places, no closer than their numbers need. */
export function timeTicks(view: View, sampleRateHz: number, width: number): Tick[] {
  const seconds = (view.endFrame - view.startFrame) / sampleRateHz;
  const least = (LEAST_TICK_PIXELS / width) * seconds;
  const step = TICK_SECONDS.find((candidate) => candidate >= least) ?? 7200;
  const first = Math.ceil(view.startFrame / sampleRateHz / step - 1e-9);
  const count = Math.floor(view.endFrame / sampleRateHz / step + 1e-9) - first + 1;
  return Array.from({ length: Math.max(0, count) }, (_, i) => {
    const second = (first + i) * step;
    return { frame: second * sampleRateHz, text: tickText(second, step) };
  });
}

function tickText(second: number, step: number): string {
  const sign = second < 0 ? '−' : '';
  const size = Math.abs(second);
  if (step >= 1) return sign + formatTime(size);
  const digits = Math.min(5, Math.ceil(-Math.log10(step) - 1e-9));
  const whole = Math.floor(size + 1e-9);
  const rest = Math.max(0, size - whole).toFixed(digits);
  return `${sign}${formatTime(whole)}${rest.slice(1)}`;
}
