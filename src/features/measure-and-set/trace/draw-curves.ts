import { fadeGain } from '@/core/treatment/steps/fade';
import { toSourceFrame, toTreatedFrame } from '@/core/treatment/timeline';
import { BINS_PER_SECOND } from '@/core/units/frames';
import type { Colours } from '@/features/common/colours';
import { type Area, type Curve, line, type Picture } from './picture';
import { BOTTOM_LUFS, loudnessDepth } from './scales';
import { frameAt, xOf } from './view';

export function drawTarget({ context, width, height }: Area, { spec }: Picture, colours: Colours): void {
  if (spec.loudness?.measure !== 'integrated') return;
  const { target, toleranceAbove, toleranceBelow } = spec.loudness;
  const top = Math.round(loudnessDepth(target + toleranceAbove) * height);
  const bottom = Math.max(top + 3, Math.round(loudnessDepth(target - toleranceBelow) * height));
  context.fillStyle = colours['stock-3'];
  context.globalAlpha = 0.4;
  context.fillRect(0, top, width, bottom - top);
  context.globalAlpha = 1;
  // Edges, since the waveform behind it is of the same family of colours.
  context.strokeStyle = colours['stock-ink'];
  context.lineWidth = 1;
  for (const y of [top + 0.5, bottom - 0.5]) line(context, 0, y, width, y);
}

export function drawCurves(area: Area, picture: Picture, colours: Colours): void {
  const { shortTermBefore, shortTerm, momentary, integrated } = picture;
  if (shortTermBefore.values !== shortTerm.values || shortTermBefore.gainDb !== shortTerm.gainDb) {
    strokeCurve(area, picture, shortTermBefore, { colour: colours.mute, width: 1, gap: 3 });
  }
  strokeCurve(area, picture, momentary, { colour: colours['slide-2'], width: 1, gap: 0 });
  strokeCurve(area, picture, integrated, { colour: colours['stock-ink'], width: 1.5, gap: 6 });
  strokeCurve(area, picture, shortTerm, { colour: colours['slide-ink'], width: 2, gap: 0 });
}

/** A curve, thinned to one point a pixel by keeping the greatest of each; gaps where nothing is measured. */
function strokeCurve(
  { context, view, width, height }: Area,
  { timeline, sampleRateHz }: Picture,
  { values, gainDb }: Curve,
  /** A broken line has gaps as long as its pieces; the browser's own dashes cost too much for a line of a thousand points. */
  pen: { colour: string; width: number; gap: number },
): void {
  const sourceFramesPerBin = sampleRateHz / BINS_PER_SECOND;
  const binOf = (x: number) => (frameAt(view, width, x) - timeline.startFrame) / sourceFramesPerBin - 1;
  context.strokeStyle = pen.colour;
  context.lineWidth = pen.width;
  context.beginPath();
  let isDown = false;
  const perPixel = (view.endFrame - view.startFrame) / width / sourceFramesPerBin;
  const stride = Math.max(1, Math.floor(perPixel));
  // From near, points are further apart than pieces of a broken line are long: then every other is left out.
  const isSparse = stride / perPixel > pen.gap / 2;
  const put = (bin: number, value: number) => {
    if (Number.isNaN(value)) {
      isDown = false;
      return;
    }
    const x = xOf(view, width, timeline.startFrame + (bin + 1) * sourceFramesPerBin);
    const y = loudnessDepth(value + gainDb) * height;
    const isGap = pen.gap > 0 && (isSparse ? bin : Math.floor(x / pen.gap)) % 2 === 1;
    if (isDown && !isGap) context.lineTo(x, y);
    else context.moveTo(x, y);
    isDown = true;
  };
  const first = Math.max(0, Math.floor(binOf(0)) - 1);
  const last = Math.min(values.length - 1, Math.ceil(binOf(width)) + 1);
  for (let start = first - (first % stride); start <= last; start += stride) {
    let greatest = Number.NEGATIVE_INFINITY;
    let isNaNOnly = true;
    for (let bin = Math.max(0, start); bin < Math.min(values.length, start + stride); bin++) {
      const value = values[bin] ?? 0;
      if (Number.isNaN(value)) continue;
      isNaNOnly = false;
      if (value > greatest) greatest = value;
    }
    put(start + stride - 1, isNaNOnly ? Number.NaN : Math.max(BOTTOM_LUFS - 1 - gainDb, greatest));
  }
  context.stroke();
}

export function drawFades({ context, view, width, height }: Area, picture: Picture, colours: Colours): void {
  const { treatment, timeline, treated } = picture;
  context.strokeStyle = colours['stock-ink'];
  context.lineWidth = 1.5;
  const draw = (from: number, to: number, gainAt: (frame: number) => number) => {
    const fromX = Math.max(0, xOf(view, width, toSourceFrame(timeline, from)));
    const toX = Math.min(width, xOf(view, width, toSourceFrame(timeline, to)));
    if (toX <= fromX) return;
    context.beginPath();
    for (let x = fromX; x <= toX; x++) {
      const frame = toTreatedFrame(timeline, frameAt(view, width, x));
      const y = height - gainAt(frame) * height;
      if (x === fromX) context.moveTo(x, y);
      else context.lineTo(x, y);
    }
    context.stroke();
  };
  const { fadeIn, fadeOut } = treatment;
  if (fadeIn) draw(0, fadeIn.frames, (frame) => fadeGain(fadeIn.shape, frame / fadeIn.frames));
  if (fadeOut) {
    const end = treated.frames - 1;
    draw(end - fadeOut.frames, end, (frame) => fadeGain(fadeOut.shape, (end - frame) / fadeOut.frames));
  }
}
