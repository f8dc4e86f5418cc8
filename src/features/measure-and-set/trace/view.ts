import { formatTime } from '@/core/units/format';
import {
  formatTimeCode,
  labelsOfADay,
  parseTimeCode,
  pictureFrameRate,
  type StartTimeCode,
  type TimeCodeRate,
} from '@/core/units/time-code';

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

/** Picture frames between two marks that are less than a second apart. */
const TICK_PICTURES = [1, 2, 5, 10];

/**
 * Round time codes, where a view is longer than a picture or two; else times as `timeTicks` has them. A label that drop-frame counting
 * leaves out stands at the next one.
 */
export function timeCodeTicks(view: View, sampleRateHz: number, width: number, timeCode: StartTimeCode): Tick[] {
  const { rate, pictureFrame, offsetFrames } = timeCode;
  const perSecond = pictureFrameRate(rate);
  const numberAt = (frame: number) => pictureFrame + ((frame + offsetFrames) * perSecond) / sampleRateHz;
  const [first, last] = [Math.ceil(numberAt(view.startFrame) - 1e-6), Math.floor(numberAt(view.endFrame) + 1e-6)];
  if (last - first < 2) return timeTicks(view, sampleRateHz, width);
  const leastSeconds = ((LEAST_TICK_PIXELS / width) * (view.endFrame - view.startFrame)) / sampleRateHz;
  const tick = (number: number): Tick => ({
    frame: ((number - pictureFrame) * sampleRateHz) / perSecond - offsetFrames,
    text: formatTimeCode(number, rate),
  });
  const pictures = TICK_PICTURES.find((count) => count / perSecond >= leastSeconds);
  if (pictures !== undefined) {
    const all = Array.from({ length: last - first + 1 }, (_, i) => tick(first + i));
    return all.filter(({ text }) => Number(text.slice(-2)) % pictures === 0);
  }
  const step = TICK_SECONDS.find((seconds) => seconds >= Math.max(1, leastSeconds)) ?? 7200;
  const perDay = labelsOfADay(rate);
  const ticks: Tick[] = [];
  for (let day = Math.floor(first / perDay); day <= Math.floor(last / perDay); day++) {
    for (
      let second = step * Math.ceil(secondOf(Math.max(first - day * perDay, 0), rate) / step);
      second < DAY_SECONDS;
      second += step
    ) {
      const number = day * perDay + numberOf(second, rate);
      if (number > last) break;
      if (number >= first) ticks.push(tick(number));
    }
  }
  return ticks;
}

const DAY_SECONDS = 24 * 3600;

/** Of the label of a picture frame, its frames left out. */
function secondOf(number: number, rate: TimeCodeRate): number {
  const [hours = 0, minutes = 0, seconds = 0] = formatTimeCode(number, rate).split(/[:;]/).map(Number);
  return 3600 * hours + 60 * minutes + seconds;
}

/** The first picture frame of a second of the labels. */
function numberOf(second: number, rate: TimeCodeRate): number {
  const two = (value: number) => String(value).padStart(2, '0');
  const clock = [Math.floor(second / 3600), Math.floor(second / 60) % 60, second % 60].map(two).join(':');
  // Of most minutes drop-frame counting leaves out 00 and 01, or 00 to 03.
  for (let frames = 0; ; frames++) {
    const number = parseTimeCode(`${clock}:${two(frames)}`, rate);
    if (number !== undefined) return number;
  }
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
