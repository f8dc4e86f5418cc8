export const PLOT_HEIGHT = 122;
export const LANE_HEIGHT = 18;
export const AXIS_HEIGHT = 15;
export const OVERVIEW_HEIGHT = 18;
/** Room beside the plot for its numbers. */
export const SIDE = 34;
/** All of it, with what a limiter takes. */
export const TRACE_HEIGHT = PLOT_HEIGHT + LANE_HEIGHT + AXIS_HEIGHT + OVERVIEW_HEIGHT + 6;
