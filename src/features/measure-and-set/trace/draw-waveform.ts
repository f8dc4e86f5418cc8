import { createInterpolator, interpolatedAt } from '@/core/peak/interpolator';
import { fadeGain } from '@/core/treatment/steps/fade';
import { toTreatedFrame } from '@/core/treatment/timeline';
import { dbToAmplitude } from '@/core/units/decibel';
import type { Colours } from '@/features/common/colours';
import type { ReductionStretch } from '@/workers/protocol';
import { type Area, type Look, line, type Picture } from './picture';
import { deviceRatio, packedColour, type Raster } from './raster';
import { type Height, heightOf } from './scales';
import type { Columns } from './tiles';
import { frameAt, type View, xOf } from './view';

/** Below this, samples are drawn one by one, with the curve between them. */
const FRAMES_PER_PIXEL_OF_SAMPLES = 0.5;

/** Below this, heights by decibels would tear a wave apart. */
const FRAMES_PER_PIXEL_OF_WAVES = 24;

const INTERPOLATOR = createInterpolator({ taps: 32, kaiserBeta: 8 });

const PHASES = 8;

/** What was there before is a broken line, here as in the curves; in pixels of the page. */
const GAP_OF_BEFORE = 3;

/** The height that a view can be drawn in. */
export function heightFor(height: Height, view: View, width: number): Height {
  return (view.endFrame - view.startFrame) / width < FRAMES_PER_PIXEL_OF_WAVES ? 'linear' : height;
}

export interface Lane {
  /** What is drawn in it; null for all channels in one. */
  channel: number | null;
  top: number;
  height: number;
}

/** Whether a view is so near that samples are drawn one by one. */
function isOfSamples(view: View, width: number): boolean {
  return (view.endFrame - view.startFrame) / width < FRAMES_PER_PIXEL_OF_SAMPLES;
}

function treatedViewOf({ timeline }: Picture, view: View): View {
  return {
    startFrame: toTreatedFrame(timeline, view.startFrame),
    endFrame: toTreatedFrame(timeline, view.endFrame),
  };
}

/** Where a sample stands in a lane, in pixels `ratio` times as fine as the page's. */
function standing(look: Look, { view, width }: Area, lane: Lane, ratio: number): (sample: number) => number {
  const height = heightFor(look.height, view, width);
  const half = (lane.height / 2) * ratio;
  const middle = lane.top * ratio + half;
  return (sample) => middle - Math.sign(sample) * heightOf(Math.abs(sample), height) * half;
}

/** The waveform after, what stands over the limit, and the outline of the one before. */
export function paintWaveforms(raster: Raster, area: Area, picture: Picture, look: Look, lane: Lane): void {
  const { view, width } = area;
  if (isOfSamples(view, width)) return;
  const { treatment, spec, treated, source } = picture;
  const { colours } = look;
  const toY = standing(look, area, lane, deviceRatio(area));
  const treatedView = treatedViewOf(picture, view);
  const { channel } = lane;
  const only = channel === null ? null : Math.min(channel, treated.channels - 1);
  const columns = faded(
    treated.columns(treatedView, raster.width, only),
    treatedView,
    picture,
    dbToAmplitude(treatment.gainDb),
  );
  const limit = Math.min(
    treatment.limit ? dbToAmplitude(treatment.limit.ceilingDbtp) : Number.POSITIVE_INFINITY,
    dbToAmplitude(spec.peak.ceiling),
  );
  const toHeldY = (sample: number) => toY(held(sample, limit));
  paintColumns(raster, columns, toHeldY, colours['stock-2']);
  if (treatment.gainDb !== 0 || treatment.limit) {
    const gap = Math.round(GAP_OF_BEFORE * deviceRatio(area));
    paintOutline(raster, source.columns(view, raster.width, channel), toY, colours.mute, gap);
  }
  // The fill is pale, so that curves are seen on it: its edge is what stands out from the paper.
  paintOutline(raster, columns, toHeldY, colours['stock-3']);
  // What stands above the ceiling, or would without the limiter.
  const edge = colours['breach-line'];
  paintCaps(raster, columns, toY, limit, { fill: treatment.limit ? colours['breach-1'] : edge, edge });
}

/** Ceiling and middle of a lane and, from near, its samples. */
export function drawLane(area: Area, picture: Picture, look: Look, lane: Lane): void {
  const { context, view, width } = area;
  const { spec, treated } = picture;
  const { colours } = look;
  const toY = standing(look, area, lane, 1);
  if (isOfSamples(view, width)) {
    const only = lane.channel === null ? null : Math.min(lane.channel, treated.channels - 1);
    for (let c = 0; c < treated.channels; c++) {
      if (only === null || c === only) drawSamples(area, picture, treatedViewOf(picture, view), c, toY, colours);
    }
  }
  const ceiling = dbToAmplitude(spec.peak.ceiling);
  const middle = lane.top + lane.height / 2;
  context.strokeStyle = colours['breach-line'];
  context.lineWidth = 1;
  context.setLineDash([2, 3]);
  for (const y of [toY(ceiling), toY(-ceiling)]) line(context, 0, y, width, y);
  context.setLineDash([]);
  context.strokeStyle = colours.hair;
  line(context, 0, middle, width, middle);
}

/** Columns as the gain and the fades leave them. */
function faded(columns: Columns, view: View, { treatment, treated }: Picture, gain: number): Columns {
  const { fadeIn, fadeOut } = treatment;
  const width = columns.min.length;
  const factorAt = (x: number) => {
    const frame = frameAt(view, width, x + 0.5);
    let factor = gain;
    if (fadeIn) factor *= fadeGain(fadeIn.shape, frame / fadeIn.frames);
    if (fadeOut) factor *= fadeGain(fadeOut.shape, (treated.frames - 1 - frame) / fadeOut.frames);
    return factor;
  };
  for (let x = 0; x < width; x++) {
    if ((columns.min[x] ?? 0) > (columns.max[x] ?? 0)) continue;
    const factor = factorAt(x);
    columns.min[x] = (columns.min[x] ?? 0) * factor;
    columns.max[x] = (columns.max[x] ?? 0) * factor;
  }
  return columns;
}

function held(sample: number, most: number): number {
  return Math.max(-most, Math.min(most, sample));
}

/** From the least to the greatest of every pixel. */
export function paintColumns(
  raster: Raster,
  { min, max }: Columns,
  toY: (sample: number) => number,
  colour: string,
): void {
  const pixel = packedColour(colour);
  for (let x = 0; x < min.length; x++) {
    const [low, high] = [min[x] ?? 0, max[x] ?? 0];
    if (low <= high) raster.bar(x, toY(high), toY(low), pixel);
  }
}

/** What stands beyond a limit on either side, and an edge where it ends. */
function paintCaps(
  raster: Raster,
  { min, max }: Columns,
  toY: (sample: number) => number,
  limit: number,
  colours: { fill: string; edge: string },
): void {
  const [fill, edge] = [colours.fill, colours.edge].map(packedColour) as [number, number];
  const [upper, lower] = [toY(limit), toY(-limit)];
  for (let x = 0; x < min.length; x++) {
    const [highest, lowest] = [toY(max[x] ?? 0), toY(min[x] ?? 0)];
    if ((max[x] ?? 0) > limit) {
      raster.bar(x, highest, upper, fill);
      raster.bar(x, highest, highest, edge);
    }
    if ((min[x] ?? 0) < -limit) {
      raster.bar(x, lower, lowest, fill);
      raster.bar(x, lowest, lowest, edge);
    }
  }
}

/** The outline of columns: for each pixel, from where its neighbour stands to where it does; where broken, with gaps as long as its pieces. */
function paintOutline(
  raster: Raster,
  { min, max }: Columns,
  toY: (sample: number) => number,
  colour: string,
  gap = 0,
): void {
  const pixel = packedColour(colour);
  for (const edge of [max, min]) {
    let before: number | undefined;
    for (let x = 0; x < edge.length; x++) {
      if ((min[x] ?? 0) > (max[x] ?? 0)) {
        before = undefined;
        continue;
      }
      const y = toY(edge[x] ?? 0);
      const isGap = gap > 0 && Math.floor(x / gap) % 2 === 1;
      if (!isGap) raster.bar(x, Math.min(y, before ?? y), Math.max(y, before ?? y), pixel);
      before = y;
    }
  }
}

/** Samples one by one, with the signal that a converter makes of them: a peak between two of them is seen. */
function drawSamples(
  { context, width }: Area,
  { treatment, treated, spec, fineReduction }: Picture,
  view: View,
  channel: number,
  toY: (sample: number) => number,
  colours: Colours,
): void {
  const found = treated.samples(view, channel, INTERPOLATOR.taps);
  if (!found) return;
  const { startFrame, samples } = found;
  const gain = dbToAmplitude(treatment.gainDb);
  const ceiling = dbToAmplitude(spec.peak.ceiling);
  const first = Math.max(0, Math.floor(view.startFrame) - startFrame);
  const last = Math.min(samples.length - 1, Math.ceil(view.endFrame) - startFrame);
  const toX = (index: number) => xOf(view, width, startFrame + index);
  const leftAt = (index: number) =>
    gain * dbToAmplitude(-(fineReduction ? reductionAt(fineReduction, channel, startFrame + index) : 0));
  const points: { x: number; sample: number }[] = [];
  for (let i = first; i < last; i++) {
    for (let phase = 0; phase < PHASES; phase++) {
      const sample = phase === 0 ? (samples[i] ?? 0) : interpolatedAt(INTERPOLATOR, samples, i, 2 * phase);
      points.push({ x: toX(i + phase / PHASES), sample: sample * leftAt(i + phase / PHASES) });
    }
  }
  for (const [colour, isWanted] of [
    [colours['slide-ink'], () => true],
    [colours['breach-line'], (sample: number) => Math.abs(sample) > ceiling],
  ] as const) {
    context.strokeStyle = colour;
    context.lineWidth = colour === colours['slide-ink'] ? 1.25 : 2.5;
    context.beginPath();
    let isDown = false;
    for (const { x, sample } of points) {
      if (isWanted(sample)) {
        if (isDown) context.lineTo(x, toY(sample));
        else context.moveTo(x, toY(sample));
      }
      isDown = isWanted(sample);
    }
    context.stroke();
  }
  if ((view.endFrame - view.startFrame) / width > 0.2) return;
  context.fillStyle = colours.ink;
  for (let i = first; i <= last; i++) {
    context.fillRect(toX(i) - 1.5, toY((samples[i] ?? 0) * leftAt(i)) - 1.5, 3, 3);
  }
}

/** What a trace takes of a channel at a frame, in dB; 0 where it does not reach. */
function reductionAt(
  { groups, reductions, startFrame, nodeFrames }: ReductionStretch,
  channel: number,
  frame: number,
): number {
  const own = reductions[groups.findIndex((members) => members.includes(channel))];
  const at = (frame - startFrame) / nodeFrames;
  const node = Math.floor(at);
  if (!own || node < 0 || node + 1 >= own.length) return 0;
  const [from, to] = [own[node] ?? 0, own[node + 1] ?? 0];
  return from + (at - node) * (to - from);
}
