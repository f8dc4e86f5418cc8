import type { Readings } from '@/core/loudness/readings';
import type { Spec } from '@/core/spec/spec';

/** The part of the dB scale that the rule shows. */
export interface RuleScale {
  lowDb: number;
  highDb: number;
  /** Pixels along the rule. */
  width: number;
}

const DEFAULT_LOW_DB = -36;
const DEFAULT_HIGH_DB = 6;
const STEP_DB = 6;
/** Room kept between the outermost mark and the end of the rule. */
const MARGIN_DB = 3;

/** A scale on which a programme's marks and the limits of all specs have their place. */
export function ruleScale(readings: Readings, specs: readonly Spec[], width: number): RuleScale {
  const levels = [
    readings.integratedLufs,
    readings.loudnessRangeLowLufs,
    readings.rmsDbfs,
    ...specs.map(({ loudness }) => (loudness ? loudness.target - loudness.toleranceBelow : null)),
  ].filter((level) => level !== null);
  const peak = readings.truePeakDbtp ?? Math.max(...specs.map((spec) => spec.peak.ceiling));
  return {
    lowDb: Math.max(-90, Math.min(DEFAULT_LOW_DB, Math.floor((Math.min(...levels) - MARGIN_DB) / STEP_DB) * STEP_DB)),
    highDb: Math.min(60, Math.max(DEFAULT_HIGH_DB, Math.ceil((peak + MARGIN_DB) / STEP_DB) * STEP_DB)),
    width,
  };
}

export function toX(scale: RuleScale, db: number): number {
  return ((db - scale.lowDb) / (scale.highDb - scale.lowDb)) * scale.width;
}

export function dbPerPixel({ lowDb, highDb, width }: RuleScale): number {
  return (highDb - lowDb) / width;
}

export interface RuleLabel {
  key: string;
  text: string;
  /** Where its mark is. */
  x: number;
  isBreach?: boolean;
}

export interface PlacedLabel extends RuleLabel {
  anchor: 'start' | 'middle' | 'end';
  lane: number;
}

const CHARACTER_WIDTH = 7;
const GAP = 10;

/** Lanes that the slide has room for. */
export const LABEL_LANES = 3;

type Anchor = PlacedLabel['anchor'];

/**
 * Puts labels under their marks, inside the rule: each in the first lane where it is clear of those before it, centred if
 * that can be, else ending or beginning at its mark. Where that leaves one without a place, none is centred, so that a
 * lane has room for two; where even that does not do, the last lane takes what is left.
 */
export function placeLabels(labels: readonly RuleLabel[], width: number): PlacedLabel[] {
  const spread = placeBy(labels, width, ['middle', 'end', 'start']);
  return spread.isClear ? spread.placed : placeBy(labels, width, ['end', 'start', 'middle']).placed;
}

function placeBy(labels: readonly RuleLabel[], width: number, preferred: readonly Anchor[]) {
  const taken: { lane: number; start: number; end: number }[] = [];
  let isClear = true;
  const placed = labels.map((label): PlacedLabel => {
    const length = label.text.length * CHARACTER_WIDTH;
    const starts = { middle: label.x - length / 2, start: label.x, end: label.x - length };
    const anchors = preferred.filter((anchor) => starts[anchor] >= 0 && starts[anchor] + length <= width);
    const isFree = (lane: number, start: number) =>
      !taken.some((other) => other.lane === lane && start < other.end + GAP && start + length + GAP > other.start);
    const places = Array.from({ length: LABEL_LANES }, (_, lane) => anchors.map((anchor) => ({ lane, anchor }))).flat();
    const free = places.find(({ lane, anchor }) => isFree(lane, starts[anchor]));
    if (!free) isClear = false;
    const place = free ?? { lane: LABEL_LANES - 1, anchor: anchors[0] ?? ('start' as const) };
    const start = starts[place.anchor];
    taken.push({ lane: place.lane, start, end: start + length });
    return { ...label, ...place };
  });
  return { placed, isClear };
}
