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

/** A scale on which a programme's marks and a spec's limits both have their place. */
export function ruleScale(readings: Readings, spec: Spec, width: number): RuleScale {
  const levels = [
    readings.integratedLufs,
    readings.loudnessRangeLowLufs,
    readings.rmsDbfs,
    spec.loudness ? spec.loudness.target - spec.loudness.toleranceBelow : null,
  ].filter((level) => level !== null);
  const peak = readings.truePeakDbtp ?? spec.peak.ceiling;
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

/** Puts labels under their marks, each in the first lane where it is clear of those before it, and inside the rule. */
export function placeLabels(labels: readonly RuleLabel[], width: number): PlacedLabel[] {
  const taken: { lane: number; start: number; end: number }[] = [];
  return labels.map((label) => {
    const length = label.text.length * CHARACTER_WIDTH;
    const anchor = label.x - length / 2 < 0 ? 'start' : label.x + length / 2 > width ? 'end' : 'middle';
    const start = anchor === 'start' ? label.x : anchor === 'end' ? label.x - length : label.x - length / 2;
    const end = start + length;
    const isTaken = (lane: number) =>
      taken.some((other) => other.lane === lane && start < other.end + GAP && end + GAP > other.start);
    let lane = 0;
    while (isTaken(lane)) lane++;
    taken.push({ lane, start, end });
    return { ...label, anchor, lane };
  });
}
