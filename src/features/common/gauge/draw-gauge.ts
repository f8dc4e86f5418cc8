import type { Level } from '@/core/units/decibel';
import { formatNumber } from '@/core/units/format';
import type { Colours } from '../colours';
import type { RuleScale } from '../rule/rule-geometry';
import { toX } from '../rule/rule-geometry';
import { MARKS_Y, SLIDE_BOTTOM, SLIDE_TOP, STOCK_HEIGHT } from '../rule/rule-size';
import { gaugeMessages as messages } from './messages';

/** What the gauge shows at one moment. */
export interface GaugeMoment {
  momentaryLufs: Level;
  shortTermLufs: Level;
  integratedLufs: Level;
  rangeLowLufs: Level;
  rangeHighLufs: Level;
  /** By channel: of the last 100 ms, and the highest since the readings were begun. */
  peaks: readonly { label: string; nowDbtp: Level; maxDbtp: Level }[];
  reductionDb: number;
  /** Where the momentary and the short-term loudness were, newest last. */
  momentaryTrail: readonly Level[];
  shortTermTrail: readonly Level[];
}

/** Where the gauge is drawn: in the rule's own pixels, before it is enlarged. */
export interface GaugeFace {
  scale: RuleScale;
  ceilingDb: number;
  /** What a peak may reach. */
  limitDb: number;
  /** The target's window; absent where a spec asks for no integrated loudness. */
  window?: { low: number; high: number } | undefined;
  colours: Colours;
  fontFamily: string;
}

const MOMENTARY_Y = MARKS_Y - 1;
const SHORT_TERM_Y = MARKS_Y + 12;
const RANGE_Y = MARKS_Y + 23;
const PEAKS_TOP = MARKS_Y + 29;
const PEAKS_HEIGHT = SLIDE_BOTTOM - PEAKS_TOP - 1;
const MOST_PEAK_HEIGHT = 10;
/** From so high a lane on, its channel has room for a name. */
const NAMED_PEAK_HEIGHT = 8;
/** A peak is drawn as the end of so many dB, which fade behind it. */
const PEAK_TAIL_DB = 8;
const RING = 5.5;
const LABEL_GAP = 11;
/** Less is not seen. */
const LEAST_REDUCTION_DB = 0.05;

/** The programme in motion, on the slide: lanes for what is read now, a line for the integrated loudness through both parts. */
export function drawGauge(context: CanvasRenderingContext2D, moment: GaugeMoment, face: GaugeFace): void {
  context.font = `600 12px ${face.fontFamily}`;
  context.textBaseline = 'middle';
  drawIntegrated(context, moment, face);
  drawRange(context, moment, face);
  drawShortTerm(context, moment, face);
  drawMomentary(context, moment, face);
  drawPeaks(context, moment, face);
  drawReduction(context, moment, face);
}

/** A place on the rule, or at its end where a level lies beyond it. */
function place({ scale }: GaugeFace, level: number): number {
  return Math.min(scale.width, Math.max(0, toX(scale, level)));
}

function drawMomentary(
  context: CanvasRenderingContext2D,
  { momentaryLufs, momentaryTrail }: GaugeMoment,
  face: GaugeFace,
): void {
  const { colours } = face;
  context.strokeStyle = colours['slide-ink'];
  for (const [i, level] of momentaryTrail.entries()) {
    if (level === null || level < face.scale.lowDb || level > face.scale.highDb) continue;
    context.globalAlpha = 0.5 * ((i + 1) / momentaryTrail.length) ** 2;
    ring(context, place(face, level), MOMENTARY_Y, RING - 1.5);
    context.lineWidth = 1.25;
    context.stroke();
  }
  context.globalAlpha = 1;
  if (momentaryLufs === null) return;
  const x = place(face, momentaryLufs);
  ring(context, x, MOMENTARY_Y, RING);
  context.fillStyle = colours.sheet;
  context.fill();
  context.lineWidth = 2.5;
  context.stroke();
  label(context, messages.momentary, x, MOMENTARY_Y, face);
}

function drawShortTerm(
  context: CanvasRenderingContext2D,
  { shortTermLufs, shortTermTrail }: GaugeMoment,
  face: GaugeFace,
): void {
  const levels = shortTermTrail.filter((level) => level !== null);
  const { colours } = face;
  if (levels.length > 0) {
    bar(context, place(face, Math.min(...levels)), place(face, Math.max(...levels)), SHORT_TERM_Y - 2.5, 5);
    context.fillStyle = colours['slide-2'];
    context.fill();
  }
  if (shortTermLufs === null) return;
  const x = place(face, shortTermLufs);
  ring(context, x, SHORT_TERM_Y, RING);
  context.fillStyle = colours['slide-ink'];
  context.fill();
  label(context, messages.shortTerm, x, SHORT_TERM_Y, face);
}

function drawRange(
  context: CanvasRenderingContext2D,
  { rangeLowLufs, rangeHighLufs }: GaugeMoment,
  face: GaugeFace,
): void {
  if (rangeLowLufs === null || rangeHighLufs === null) return;
  const [from, to] = [place(face, rangeLowLufs), place(face, rangeHighLufs)];
  bar(context, from, Math.max(from + 3, to), RANGE_Y - 3, 6);
  context.fillStyle = face.colours['slide-2'];
  context.fill();
  label(context, messages.range, to - LABEL_GAP + 6, RANGE_Y, face);
}

/** Each channel runs towards the ceiling, and leaves a mark where it was highest. */
function drawPeaks(context: CanvasRenderingContext2D, { peaks }: GaugeMoment, face: GaugeFace): void {
  // On a scale that ends below the ceiling there is nothing to run towards.
  if (peaks.length === 0 || face.scale.highDb < face.ceilingDb) return;
  const { colours } = face;
  const lane = Math.min(MOST_PEAK_HEIGHT, PEAKS_HEIGHT / peaks.length);
  for (const [c, { label: name, nowDbtp, maxDbtp }] of peaks.entries()) {
    const y = PEAKS_TOP + c * lane;
    const isOver = maxDbtp !== null && maxDbtp > face.limitDb;
    if (nowDbtp !== null && nowDbtp > face.scale.lowDb) {
      const [from, to] = [place(face, nowDbtp - PEAK_TAIL_DB), place(face, nowDbtp)];
      const tail = context.createLinearGradient(from, 0, to, 0);
      const colour = nowDbtp > face.limitDb ? colours['breach-line'] : colours['slide-ink'];
      tail.addColorStop(0, colours['slide-1']);
      tail.addColorStop(1, colour);
      context.fillStyle = tail;
      context.fillRect(from, y + 0.5, to - from, lane - 2);
    }
    if (maxDbtp === null) continue;
    const x = place(face, maxDbtp);
    context.fillStyle = isOver ? colours['breach-line'] : colours.ink;
    context.fillRect(x - 1.25, y - 0.5, 2.5, lane);
    if (lane < NAMED_PEAK_HEIGHT) continue;
    context.font = `600 10px ${face.fontFamily}`;
    context.textAlign = 'left';
    context.fillText(name, Math.min(x + 4, face.scale.width - 10), y + lane / 2);
    context.font = `600 12px ${face.fontFamily}`;
  }
}

/** What the limiter takes, eaten from the ceiling. */
function drawReduction(context: CanvasRenderingContext2D, { reductionDb }: GaugeMoment, face: GaugeFace): void {
  if (reductionDb < LEAST_REDUCTION_DB || face.scale.highDb < face.ceilingDb) return;
  const to = place(face, face.ceilingDb);
  const from = place(face, face.ceilingDb - reductionDb);
  const [top, bottom] = [SHORT_TERM_Y - 7, RANGE_Y + 3];
  context.save();
  context.beginPath();
  context.rect(from, top, to - from, bottom - top);
  context.clip();
  context.strokeStyle = face.colours['breach-line'];
  context.lineWidth = 1.5;
  context.beginPath();
  // From the ceiling, so that it stands still while it grows.
  for (let x = to + (bottom - top); x > from - (bottom - top); x -= 5) {
    context.moveTo(x, top);
    context.lineTo(x - (bottom - top), bottom);
  }
  context.stroke();
  context.restore();
  context.fillStyle = face.colours['breach-line'];
  const text = messages.limiter(formatNumber(-reductionDb));
  const isRoom = to + 6 + context.measureText(text).width < face.scale.width;
  context.textAlign = isRoom ? 'left' : 'right';
  context.fillText(text, isRoom ? to + 6 : from - 6, (top + bottom) / 2);
}

function drawIntegrated(
  context: CanvasRenderingContext2D,
  { integratedLufs }: GaugeMoment,
  { window, ...face }: GaugeFace,
): void {
  if (integratedLufs === null) return;
  const { colours } = face;
  const x = place(face, integratedLufs);
  const isInside = window && integratedLufs >= window.low && integratedLufs <= window.high;
  context.strokeStyle = colours['breach-line'];
  context.lineWidth = 1.25;
  context.beginPath();
  context.moveTo(x, STOCK_HEIGHT / 2);
  context.lineTo(x, SLIDE_BOTTOM);
  context.stroke();
  context.fillStyle = window && !isInside ? colours['breach-line'] : colours['slide-ink'];
  context.beginPath();
  context.moveTo(x, SLIDE_TOP);
  context.lineTo(x + 7, SLIDE_TOP + 12);
  context.lineTo(x - 7, SLIDE_TOP + 12);
  context.fill();
}

function label(context: CanvasRenderingContext2D, text: string, x: number, y: number, face: GaugeFace): void {
  const isRoom = x + LABEL_GAP + context.measureText(text).width < face.scale.width;
  context.textAlign = isRoom ? 'left' : 'right';
  context.lineWidth = 3;
  context.strokeStyle = face.colours['slide-1'];
  context.fillStyle = face.colours['slide-ink'];
  const at = isRoom ? x + LABEL_GAP : x - LABEL_GAP;
  context.strokeText(text, at, y);
  context.fillText(text, at, y);
}

function ring(context: CanvasRenderingContext2D, x: number, y: number, radius: number): void {
  context.beginPath();
  context.arc(x, y, radius, 0, 2 * Math.PI);
}

function bar(context: CanvasRenderingContext2D, from: number, to: number, top: number, height: number): void {
  context.beginPath();
  context.roundRect(from, top, Math.max(1, to - from), height, height / 2);
}
