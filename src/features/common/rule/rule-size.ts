import { LABEL_LANES } from './rule-geometry';

export const STOCK_HEIGHT = 44;
/** Of a spec that is stacked above the first. */
export const THIN_HEIGHT = 22;
export const SLIDE_TOP = STOCK_HEIGHT + 2;
export const MARKS_Y = SLIDE_TOP + 20;
export const LABELS_Y = MARKS_Y + 18;
export const LANE_HEIGHT = 13;
export const SLIDE_BOTTOM = LABELS_Y + (LABEL_LANES - 1) * LANE_HEIGHT + 6;
export const HEIGHT = SLIDE_BOTTOM + 14;
