import type { Colours } from '@/features/common/colours';
import { drawCurves, drawFades, drawTarget } from './draw-curves';
import { drawMarkers, drawOutside, drawOvers, drawSelected, drawSpan } from './draw-marks';
import { drawLane, paintColumns, paintWaveforms } from './draw-waveform';
import { type Area, type Look, line, type Picture } from './picture';
import { Raster } from './raster';
import { heightOf } from './scales';
import { type Span, type View, xOf } from './view';

const LANE_GAP = 4;

/** Draws the plot: waveforms, what is kept, limits, curves, overs. */
export function drawPlot(area: Area, picture: Picture, look: Look, span: Span | null): void {
  const { context, height } = area;
  const { colours } = look;
  const count = look.isSeparate ? picture.source.channels : 1;
  const laneHeight = (height - LANE_GAP * (count - 1)) / count;
  const lanes = Array.from({ length: count }, (_, lane) => ({
    channel: look.isSeparate ? lane : null,
    top: lane * (laneHeight + LANE_GAP),
    height: laneHeight,
  }));
  const raster = new Raster(context, colours.paper);
  for (const lane of lanes) paintWaveforms(raster, area, picture, look, lane);
  raster.put();
  for (const lane of lanes) drawLane(area, picture, look, lane);
  drawTarget(area, picture, colours);
  drawOutside(area, picture, colours);
  drawCurves(area, picture, colours);
  drawFades(area, picture, colours);
  drawMarkers(area, picture, colours);
  drawOvers(area, picture, colours);
  drawSelected(area, picture, colours);
  if (span) drawSpan(area, span, colours);
}

/** All of the programme in small. */
export function drawOverview(area: Area, picture: Picture, colours: Colours): void {
  const raster = new Raster(area.context, colours.paper);
  const middle = raster.height / 2;
  const toY = (sample: number) => middle - Math.sign(sample) * heightOf(Math.abs(sample), 'linear') * middle;
  const columns = picture.source.columns(area.view, raster.width, null);
  paintColumns(raster, columns, toY, colours['stock-3']);
  raster.put();
  drawOutside(area, picture, colours);
  drawOvers(area, { ...picture, selected: undefined }, colours);
}

/** What is looked at of all of it. */
export function drawShown(area: Area, shown: View, span: Span | null, colours: Colours): void {
  const { context, view, width, height } = area;
  context.clearRect(0, 0, width, height);
  if (span) drawSpan(area, span, colours);
  const from = xOf(view, width, shown.startFrame);
  const to = Math.max(from + 3, xOf(view, width, shown.endFrame));
  context.strokeStyle = colours.ink;
  context.lineWidth = 1.5;
  context.strokeRect(from + 0.75, 0.75, to - from - 1.5, height - 1.5);
}

/** The line that moves: where one is, or where it is played. */
export function drawHead(area: Area, frame: number, pointed: number | null, colours: Colours): void {
  const { context, view, width, height } = area;
  context.clearRect(0, 0, width, height);
  if (pointed !== null) {
    context.strokeStyle = colours.mute;
    context.lineWidth = 1;
    line(context, pointed, 0, pointed, height);
  }
  const x = xOf(view, width, frame);
  if (x < -4 || x > width + 4) return;
  context.strokeStyle = colours.ink;
  context.lineWidth = 1.5;
  line(context, x, 0, x, height);
  context.fillStyle = colours.ink;
  context.beginPath();
  context.moveTo(x - 5, 0);
  context.lineTo(x + 5, 0);
  context.lineTo(x, 6);
  context.fill();
}
