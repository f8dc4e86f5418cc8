import { slidingMax, slidingMean, slidingMin } from './sliding';

/**
 * How much a limiter turns down, for every node of a peak envelope.
 *
 * Two parts. The fast one takes each peak within a millisecond and lets go within some 20 ms; it is heard least, and costs
 * least loudness. Beneath it lies a floor for what stays over the ceiling for longer than 100 ms: held over half a cycle
 * of 31 Hz, so that a bass note is turned down as a whole and not cycle by cycle, which would distort it. The floor looks
 * ahead; all is computed for a programme at once, and what is heard is what is written.
 */

/** Detected peaks stand a trifle under those of a finer look (measured on noise, clicks, squares and music). */
const MARGIN_DB = 0.03;
/** Spans of the smoothing, three means in a row. */
const SMOOTHING_MS = [0.75, 0.45, 0.3] as const;
/** Gaps this short within what is over are none, and what is over for less than the second is left to the fast part. */
const FLOOR_GAP_MS = 16;
const FLOOR_LEAST_MS = 100;
const FLOOR_WIDENED_MS = 10;
const FLOOR_SMOOTHING_MS = 10;
/** The fast part falls to 1/e in this time. */
const RELEASE_MS = 20;
/** Less than this is nothing. */
const NEGLIGIBLE_DB = 1e-5;
/** What a peak moves before it, by the floor that looks ahead, and behind it, until the release has fallen to nothing. */
const REACH_BEFORE_MS = 200;
const REACH_BEHIND_MS = 500;

/**
 * @param peaks greatest true peak (linear) of every node
 * @param gainDb that the programme is turned up by before
 * @returns reduction in dB, 0 or more, at the beginning of every node; between two it is a straight line
 */
export function gainTrace(
  peaks: Float32Array,
  { gainDb, ceilingDbtp, nodesPerSecond }: { gainDb: number; ceilingDbtp: number; nodesPerSecond: number },
): Float64Array {
  const ceiling = 10 ** ((ceilingDbtp - MARGIN_DB - gainDb) / 20);
  const trace = new Float64Array(peaks.length);
  const nodes = (ms: number) => Math.round((ms * nodesPerSecond) / 1000);
  // Where nothing is over, nothing is done: most of a programme costs no more than a look.
  for (const [from, to] of stretches(peaks, ceiling, nodes(REACH_BEFORE_MS), nodes(REACH_BEHIND_MS))) {
    const asked = Float64Array.from(peaks.subarray(from, to), (peak) =>
      peak > ceiling ? 20 * Math.log10(peak / ceiling) : 0,
    );
    trace.set(traceOfStretch(asked, nodesPerSecond), from);
  }
  return trace;
}

/** Nodes from a while before a peak over the ceiling to a while behind; those that touch are one. */
function* stretches(peaks: Float32Array, ceiling: number, before: number, behind: number): Generator<[number, number]> {
  let open: [number, number] | undefined;
  for (let k = 0; k < peaks.length; k++) {
    if ((peaks[k] as number) <= ceiling) continue;
    const from = Math.max(0, k - before);
    if (open && from > open[1]) {
      yield open;
      open = undefined;
    }
    open = [open?.[0] ?? from, Math.min(peaks.length, k + 1 + behind)];
  }
  if (open) yield open;
}

function traceOfStretch(asked: Float64Array, nodesPerSecond: number): Float64Array {
  const nodes = (ms: number) => Math.max(1, Math.round((ms * nodesPerSecond) / 1000));
  const odd = (ms: number) => 2 * Math.floor(nodes(ms) / 2) + 1;
  const widths = SMOOTHING_MS.map(odd);
  const reach = widths.reduce((sum, width) => sum + (width - 1) / 2, 0) + 1;
  const held = slidingMax(asked, reach, reach);
  const floor = sustained(asked, { gap: nodes(FLOOR_GAP_MS), least: nodes(FLOOR_LEAST_MS) });
  const widened = slidingMax(floor, nodes(FLOOR_WIDENED_MS), nodes(FLOOR_WIDENED_MS));
  const smoothFloor = slidingMean(slidingMean(widened, odd(FLOOR_SMOOTHING_MS)), odd(FLOOR_SMOOTHING_MS));
  const decay = Math.exp(-1000 / (RELEASE_MS * nodesPerSecond));
  let previous = 0;
  let trace: Float64Array = held.map((value, k) => {
    previous = Math.max(value, smoothFloor[k] as number, previous * decay);
    if (previous < NEGLIGIBLE_DB) previous = 0;
    return previous;
  });
  for (const width of widths) trace = slidingMean(trace, width);
  return trace;
}

/** What stays over for long: an opening of a closing (the terms are those of morphology). */
function sustained(asked: Float64Array, { gap, least }: { gap: number; least: number }): Float64Array {
  const around = (span: number) => [Math.floor(span / 2), Math.ceil(span / 2)] as const;
  const [gapBefore, gapBehind] = around(gap);
  const [before, behind] = around(least);
  const closed = slidingMin(slidingMax(asked, gapBefore, gapBehind), gapBehind, gapBefore);
  return slidingMax(slidingMin(closed, before, behind), behind, before);
}

/** What a trace costs. */
export interface ReductionFigures {
  greatestDb: number;
  /** 95th percentile and mean of all that is turned down at all; 0 where nothing is. */
  percentile95Db: number;
  meanDb: number;
  /** Share of the time in which it is turned down by 0.1 dB or more. */
  shareOfTime: number;
}

const COUNTED_DB = 0.1;

export function reductionFigures(trace: Float64Array): ReductionFigures {
  const counted = trace.filter((value) => value >= COUNTED_DB).sort();
  if (counted.length === 0) return { greatestDb: greatestOf(trace), percentile95Db: 0, meanDb: 0, shareOfTime: 0 };
  return {
    greatestDb: greatestOf(trace),
    percentile95Db: counted[Math.round(0.95 * (counted.length - 1))] as number,
    meanDb: counted.reduce((sum, value) => sum + value, 0) / counted.length,
    shareOfTime: counted.length / trace.length,
  };
}

function greatestOf(trace: Float64Array): number {
  return trace.reduce((most, value) => Math.max(most, value), 0);
}
