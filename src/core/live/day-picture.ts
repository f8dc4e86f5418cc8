import { formatNumber } from '../units/format';
import type { DayReport } from './day-report';

/** What a picture is made of, in order, for whatever draws it: paths as SVG has them, and words. */
export interface DayPicture {
  width: number;
  height: number;
  shapes: { colour: DayColour; path: string }[];
  words: { x: number; y: number; text: string; anchor: 'start' | 'middle' | 'end' }[];
}

export type DayColour = 'frame' | 'target' | 'levels' | 'outside' | 'lost';

const LEFT = 34;
const TOP = 8;
const BOTTOM = 30;
/** Below the levels: what was outside, at one glance. */
const STRIP_HEIGHT = 8;
const OVER_TARGET_LU = 20;
const UNDER_TARGET_LU = 22;
const USUAL_TARGET_LUFS = -23;
const STEP_LU = 6;
const TICK_SECONDS = [600, 1800, 3600, 7200, 10_800, 21_600];
const MOST_TICKS = 9;
const LEAST_WIDTH = 0.8;

/**
 * Short-term loudness of every minute, from its least to its greatest, over the target; below it, every interval outside the spec.
 *
 * @param utcOffsetMinutes of the times that are written
 */
export function dayPicture(report: DayReport, width: number, height: number, utcOffsetMinutes: number): DayPicture {
  const { spec, fromS, toS, minutes, outside } = report;
  const target = spec.loudness?.measure === 'integrated' ? spec.loudness.target : USUAL_TARGET_LUFS;
  const [low, high] = [target - UNDER_TARGET_LU, target + OVER_TARGET_LU];
  const plotBottom = height - BOTTOM - STRIP_HEIGHT - 4;
  const x = (s: number) => LEFT + ((Math.min(toS, Math.max(fromS, s)) - fromS) / (toS - fromS)) * (width - LEFT);
  const y = (level: number) =>
    TOP + ((high - Math.min(high, Math.max(low, level))) / (high - low)) * (plotBottom - TOP);
  const shapes: DayPicture['shapes'] = [];
  const words: DayPicture['words'] = [];
  if (spec.loudness?.measure === 'integrated') {
    const { toleranceAbove, toleranceBelow } = spec.loudness;
    shapes.push({ colour: 'target', path: rect(LEFT, y(target + toleranceAbove), width, y(target - toleranceBelow)) });
  }
  for (let level = target + Math.floor((high - target) / STEP_LU) * STEP_LU; level >= low; level -= STEP_LU) {
    shapes.push({ colour: 'frame', path: rect(LEFT, y(level) - 0.2, width, y(level) + 0.2) });
    words.push({ x: LEFT - 5, y: y(level) + 3, text: formatNumber(level, 0), anchor: 'end' });
  }
  const bars = minutes.flatMap(({ atS, minShortTermLufs: least, maxShortTermLufs: most }) =>
    least === null || most === null ? [] : [rect(x(atS), y(most), x(atS + 60), Math.max(y(most) + 1, y(least)))],
  );
  shapes.push({ colour: 'levels', path: bars.join('') });
  for (const { state, startS, endS } of outside) {
    const from = x(startS);
    const path = rect(from, plotBottom + 4, Math.max(from + LEAST_WIDTH, x(endS)), plotBottom + 4 + STRIP_HEIGHT);
    shapes.push({ colour: state === 'lost' ? 'lost' : 'outside', path });
  }
  const step = TICK_SECONDS.find((own) => (toS - fromS) / own <= MOST_TICKS) ?? 43_200;
  const offsetS = utcOffsetMinutes * 60;
  for (let s = Math.ceil((fromS + offsetS) / step) * step - offsetS; s <= toS; s += step) {
    words.push({ x: x(s), y: height - 6, text: timeOfDay(s, utcOffsetMinutes).slice(0, 5), anchor: 'middle' });
  }
  return { width, height, shapes, words };
}

/** "14:03:22" where clocks are so many minutes ahead of UTC. */
export function timeOfDay(atS: number, utcOffsetMinutes: number): string {
  return new Date((atS + utcOffsetMinutes * 60) * 1000).toISOString().slice(11, 19);
}

function rect(fromX: number, fromY: number, toX: number, toY: number): string {
  const [a, b, c, d] = [fromX, fromY, toX, toY].map((value) => Number(value.toFixed(2)));
  return `M${a} ${b}H${c}V${d}H${a}Z`;
}
