import { isFault, type LineEvent } from '@/core/live/line-event';
import type { Spec } from '@/core/spec/spec';
import type { Level } from '@/core/units/decibel';
import { formatNumber } from '@/core/units/format';
import type { Colours } from '@/features/common/colours';
import { clockTime } from './clock-time';

/** What was read at times of the clock; all of one length, oldest first. */
export interface TraceSeries {
  timesMs: readonly number[];
  momentaryLufs: readonly Level[];
  /** Where one time stands for many, the least and the greatest of them. */
  shortTermLufs: readonly Level[];
  minShortTermLufs: readonly Level[] | null;
  integratedLufs: readonly Level[];
  /** More between two times is a break. */
  stepMs: number;
}

export interface TraceFace {
  width: number;
  height: number;
  fromMs: number;
  toMs: number;
  spec: Spec;
  colours: Colours;
  fontFamily: string;
}

const LEFT = 40;
const BOTTOM = 22;
const TOP = 8;
const RIGHT = 10;
const LANE_HEIGHT = 19;
const MOST_LANES = 3;
/** Of the scale, around the target. */
const OVER_TARGET_LU = 20;
const UNDER_TARGET_LU = 22;
const USUAL_TARGET_LUFS = -23;
const STEP_LU = 6;
/** A tick stands at a whole multiple of one of these. */
const TICK_SECONDS = [10, 30, 60, 120, 300, 600, 1800, 3600, 10_800, 21_600];
const TICK_WIDTH = 90;
/** Shorter is still seen. */
const LEAST_BAR = 3;
const LEAST_BAND = 2;
const HATCH_STEP = 9;

/** Levels along the time of the clock, the target's window, and what was wrong. */
export function drawTrace(
  context: CanvasRenderingContext2D,
  series: TraceSeries,
  events: readonly LineEvent[],
  face: TraceFace,
): void {
  const { width, height, colours, spec } = face;
  context.clearRect(0, 0, width, height);
  context.font = `11px ${face.fontFamily}`;
  context.textBaseline = 'middle';
  const target = spec.loudness?.measure === 'integrated' ? spec.loudness.target : USUAL_TARGET_LUFS;
  const [low, high] = [target - UNDER_TARGET_LU, target + OVER_TARGET_LU];
  const x = (ms: number) => LEFT + ((ms - face.fromMs) / (face.toMs - face.fromMs)) * Math.max(1, width - LEFT - RIGHT);
  const y = (level: number) =>
    TOP + ((high - Math.min(high, Math.max(low, level))) / (high - low)) * (height - TOP - BOTTOM);
  drawGrid(context, face, target, [low, high], x, y);
  context.save();
  context.beginPath();
  context.rect(LEFT, 0, width - LEFT - RIGHT, height - BOTTOM + 1);
  context.clip();
  drawOvers(context, events, face, x);
  if (series.minShortTermLufs) drawBand(context, series, series.minShortTermLufs, colours, x, y);
  else {
    drawCurve(context, series, series.momentaryLufs, x, y, { colour: colours['slide-2'], width: 1 });
    drawCurve(context, series, series.shortTermLufs, x, y, { colour: colours['slide-ink'], width: 2.5 });
  }
  drawCurve(context, series, series.integratedLufs, x, y, { colour: colours['stock-ink'], width: 1.5, dash: [5, 4] });
  drawFaults(context, events, face, x);
  context.restore();
}

function drawGrid(
  context: CanvasRenderingContext2D,
  { width, height, fromMs, toMs, spec, colours }: TraceFace,
  target: number,
  [low, high]: readonly [number, number],
  x: (ms: number) => number,
  y: (level: number) => number,
): void {
  if (spec.loudness?.measure === 'integrated') {
    const { toleranceAbove, toleranceBelow } = spec.loudness;
    context.fillStyle = colours['stock-2'];
    const top = y(target + toleranceAbove);
    context.fillRect(LEFT, top, width - LEFT - RIGHT, Math.max(2, y(target - toleranceBelow) - top));
  }
  context.textAlign = 'right';
  context.lineWidth = 1;
  const first = target + Math.floor((high - target) / STEP_LU) * STEP_LU;
  for (let level = first; level >= low; level -= STEP_LU) {
    const at = Math.round(y(level)) + 0.5;
    context.strokeStyle = colours.hair;
    context.beginPath();
    context.moveTo(LEFT, at);
    context.lineTo(width - RIGHT, at);
    context.stroke();
    context.fillStyle = colours.mute;
    context.fillText(formatNumber(level, 0), LEFT - 6, at);
  }
  const pixels = width - LEFT - RIGHT;
  const step = 1000 * (TICK_SECONDS.find((own) => (own * 1000 * pixels) / (toMs - fromMs) >= TICK_WIDTH) ?? 43_200);
  // Ticks stand at whole times of the day where the reader is.
  const offsetMs = new Date(toMs).getTimezoneOffset() * 60_000;
  context.textAlign = 'center';
  for (let ms = Math.ceil((fromMs - offsetMs) / step) * step + offsetMs; ms <= toMs; ms += step) {
    const at = x(ms);
    if (at < LEFT + 24 || at > width - 30) continue;
    context.fillText(clockTime(ms, { withSeconds: step < 60_000 }), at, height - BOTTOM / 2 + 1);
  }
}

function drawCurve(
  context: CanvasRenderingContext2D,
  { timesMs, stepMs }: TraceSeries,
  levels: readonly Level[],
  x: (ms: number) => number,
  y: (level: number) => number,
  { colour, width, dash = [] }: { colour: string; width: number; dash?: number[] },
): void {
  context.strokeStyle = colour;
  context.lineWidth = width;
  context.lineJoin = 'round';
  context.setLineDash(dash);
  context.beginPath();
  let before: number | null = null;
  for (const [i, ms] of timesMs.entries()) {
    const level = levels[i] ?? null;
    const isBroken = level === null || before === null || ms - before > 2 * stepMs;
    if (level !== null && isBroken) context.moveTo(x(ms), y(level));
    else if (level !== null) context.lineTo(x(ms), y(level));
    before = level === null ? null : ms;
  }
  context.stroke();
  context.setLineDash([]);
}

/** From the least to the greatest of each step. */
function drawBand(
  context: CanvasRenderingContext2D,
  { timesMs, shortTermLufs, stepMs }: TraceSeries,
  least: readonly Level[],
  colours: Colours,
  x: (ms: number) => number,
  y: (level: number) => number,
): void {
  context.fillStyle = colours['slide-ink'];
  for (const [i, ms] of timesMs.entries()) {
    const [low, high] = [least[i] ?? null, shortTermLufs[i] ?? null];
    if (low === null || high === null) continue;
    context.fillRect(x(ms), y(high), Math.max(1, x(ms + stepMs) - x(ms)), Math.max(LEAST_BAND, y(low) - y(high)));
  }
}

function extentOf({ startMs, endMs }: LineEvent, { toMs }: TraceFace, x: (ms: number) => number): [number, number] {
  const from = x(startMs);
  return [from, Math.max(from + LEAST_BAR, x(endMs ?? toMs))];
}

/** Overs are hatched over the whole height, as everywhere. */
function drawOvers(
  context: CanvasRenderingContext2D,
  events: readonly LineEvent[],
  face: TraceFace,
  x: (ms: number) => number,
): void {
  const { height, colours } = face;
  for (const event of events) {
    if (event.kind !== 'over') continue;
    const [from, to] = extentOf(event, face, x);
    context.save();
    context.beginPath();
    context.rect(from, TOP, to - from, height - TOP - BOTTOM);
    context.clip();
    context.fillStyle = colours['breach-1'];
    context.fillRect(from, TOP, to - from, height);
    context.strokeStyle = colours['breach-line'];
    context.lineWidth = 1;
    context.beginPath();
    for (let at = from - height; at < to; at += HATCH_STEP) {
      context.moveTo(at, height - BOTTOM);
      context.lineTo(at + height, TOP - BOTTOM);
    }
    context.stroke();
    context.restore();
  }
}

/** Other faults are bars at the bottom, and markers are lines, each with its words where there is room. */
function drawFaults(
  context: CanvasRenderingContext2D,
  events: readonly LineEvent[],
  face: TraceFace,
  x: (ms: number) => number,
): void {
  const { height, colours, width } = face;
  const laneEnds: number[] = [];
  context.textAlign = 'left';
  for (const event of [...events].reverse()) {
    const [from, to] = extentOf(event, face, x);
    if (to < LEFT || from > width) continue;
    const isMark = event.kind === 'marker';
    if (!isMark && !isFault(event.kind)) continue;
    const isOver = event.kind === 'over';
    const words = event.words;
    const length = context.measureText(words).width;
    const textAt = Math.min(Math.max(from, LEFT + 2), width - RIGHT - length - 4);
    const begins = Math.min(from, textAt);
    let lane = laneEnds.findIndex((end) => end + 8 < begins);
    if (lane < 0) lane = Math.min(laneEnds.length, MOST_LANES - 1);
    const isFree = (laneEnds[lane] ?? Number.NEGATIVE_INFINITY) < begins;
    laneEnds[lane] = Math.max(laneEnds[lane] ?? 0, to, textAt + length);
    const bottom = height - BOTTOM - 3 - lane * LANE_HEIGHT;
    if (isMark) {
      context.fillStyle = colours.ink;
      context.fillRect(from, TOP, 1.5, height - TOP - BOTTOM);
    } else {
      context.fillStyle = isOver ? colours['breach-line'] : colours['stock-3'];
      context.fillRect(from, bottom - 4, to - from, 4);
    }
    if (!isFree) continue;
    context.fillStyle = colours.sheet;
    context.fillRect(textAt - 2, bottom - 18, length + 4, 13);
    context.fillStyle = isOver ? colours['breach-line'] : colours.ink;
    context.fillText(words, textAt, bottom - 11);
  }
}
