import { toSourceFrame } from '@/core/treatment/timeline';
import type { Colours } from '@/features/common/colours';
import { type Area, line, type Picture } from './picture';
import { type Span, xOf } from './view';

/** What is not kept stands back. */
export function drawOutside({ context, view, width, height }: Area, { timeline }: Picture, colours: Colours): void {
  const from = xOf(view, width, timeline.startFrame);
  const to = xOf(view, width, timeline.endFrame);
  context.fillStyle = colours.hair;
  context.globalAlpha = 0.7;
  if (from > 0) context.fillRect(0, 0, Math.min(width, from), height);
  if (to < width) context.fillRect(Math.max(0, to), 0, width - Math.max(0, to), height);
  context.globalAlpha = 1;
  context.strokeStyle = colours['slide-ink'];
  context.lineWidth = 2;
  if (from > 0 && from < width) line(context, from, 0, from, height);
  if (to > 0 && to < width) line(context, to, 0, to, height);
}

export function drawMarkers({ context, view, width, height }: Area, { markers }: Picture, colours: Colours): void {
  context.strokeStyle = colours['stock-ink'];
  context.fillStyle = colours['stock-ink'];
  context.lineWidth = 1;
  for (const { startFrame, endFrame } of markers) {
    const x = xOf(view, width, startFrame);
    if (x >= -6 && x <= width + 6) {
      context.setLineDash([1, 3]);
      line(context, x, 0, x, height);
      context.setLineDash([]);
      context.beginPath();
      context.moveTo(x, height - 7);
      context.lineTo(x + 5, height);
      context.lineTo(x - 5, height);
      context.fill();
    }
    if (endFrame !== null) context.fillRect(x, height - 2, xOf(view, width, endFrame) - x, 2);
  }
}

export function drawOvers({ context, view, width, height }: Area, picture: Picture, colours: Colours): void {
  const { overs, timeline, selected } = picture;
  context.strokeStyle = colours['breach-line'];
  let lastX = Number.NEGATIVE_INFINITY;
  for (const { frame, startBin } of overs) {
    const x = Math.round(xOf(view, width, toSourceFrame(timeline, frame)));
    if (x < 0 || x > width) continue;
    const isSelected = selected?.key === `over ${startBin}`;
    if (x === lastX && !isSelected) continue;
    lastX = x;
    context.lineWidth = isSelected ? 2 : 1.5;
    line(context, x, 0, x, isSelected ? height : 10);
  }
}

export function drawSelected({ context, view, width, height }: Area, { selected }: Picture, colours: Colours): void {
  if (!selected || selected.frames === 0) return;
  const x = xOf(view, width, selected.frame);
  const end = xOf(view, width, selected.frame + selected.frames);
  context.globalAlpha = 0.25;
  context.fillStyle = colours['slide-2'];
  context.fillRect(x, 0, Math.max(2, end - x), height);
  context.globalAlpha = 1;
}

export function drawSpan({ context, view, width, height }: Area, span: Span, colours: Colours): void {
  const x = xOf(view, width, span.startFrame);
  const end = xOf(view, width, span.endFrame);
  context.globalAlpha = 0.3;
  context.fillStyle = colours['slide-2'];
  context.fillRect(x, 0, Math.max(1, end - x), height);
  context.globalAlpha = 1;
  context.strokeStyle = colours['slide-ink'];
  context.lineWidth = 1;
  context.setLineDash([4, 2]);
  for (const edge of [x, end]) line(context, edge, 0, edge, height);
  context.setLineDash([]);
}
