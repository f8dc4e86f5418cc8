export const AXIS_HEIGHT = 15;
export const OVERVIEW_HEIGHT = 18;
/** Room beside the plot for its numbers. */
export const SIDE = 34;
const GAPS = 6;
const LEAST_LANE = 18;
/** Of a plot, the lane of the reductions below it is so high. */
const LANE_SHARE = 0.1;
const LEAST_PLOT = 60;

export interface PlotSize {
  width: number;
  plotHeight: number;
  /** Of what a limiter takes. */
  laneHeight: number;
}

/** What plot and lane have of all that there is, in pixels. */
export function plotSize({ width, height }: { width: number; height: number }): PlotSize {
  const room = Math.max(LEAST_PLOT + LEAST_LANE, height - AXIS_HEIGHT - OVERVIEW_HEIGHT - GAPS);
  const laneHeight = Math.max(LEAST_LANE, Math.round((room * LANE_SHARE) / (1 + LANE_SHARE)));
  return { width: width - 2 * SIDE, plotHeight: room - laneHeight, laneHeight };
}
