import { BINS_PER_SECOND } from '../units/frames';
import type { FineEnergies } from './fine-energy';
import {
  CURVE_BLOCK,
  type CurveMaker,
  type CurveSettings,
  curveBlock,
  curveBlocks,
  curveStretch,
  type NodePeaks,
} from './gain-curve';
import { ReductionMeter } from './reduction';

/** What is kept of a programme to forecast a limiter: peaks and energies of its fine nodes. */
export interface FineSource extends NodePeaks {
  readEnergies(from: number, to: number): FineEnergies;
}

/** What a limiter would take, before any gain. */
export interface LimiterCost {
  /** Weighted mean square that every 100 ms loses. */
  lostPower: Float64Array;
  /** Plain sum of squares that the whole programme loses. */
  lostPlain: number;
  /** Greatest reduction in dB of every 100 ms. */
  reductionsDb: Float32Array;
  meter: ReductionMeter;
}

/**
 * What nodes of a block lose: for each span between two edges, of their weighted energy, and behind all of them, of the
 * plain energy of the whole block. May be written to again by the next call.
 *
 * @param reductions one more than there are nodes
 */
export type LossAdder = (reductions: Float32Array, energies: FineEnergies, edges: Int32Array) => Float64Array;

const POWER_PER_DB = Math.LN10 / 10;

/** The plain way; the kernel does the same in f32. */
export const addLosses: LossAdder = (reductions, { weighted, plain }, edges) => {
  const lost = new Float64Array(edges.length);
  const last = edges.length - 1;
  for (let span = 0; span < last; span++) {
    for (let k = edges[span] as number; k < (edges[span + 1] as number); k++) {
      const [first, second] = [reductions[k] ?? 0, reductions[k + 1] ?? 0];
      // What a node holds is turned down from one value to the next. In nodes as wide as these a peak is held a little
      // longer than it will be, so the lesser value counts for more (measured: docs/limiter.md).
      const reductionDb = (3 * (first + second) + 2 * Math.min(first, second)) / 8;
      if (reductionDb === 0) continue;
      const share = 1 - Math.exp(-POWER_PER_DB * reductionDb);
      lost[span] = (lost[span] ?? 0) + share * (weighted[k] ?? 0);
      lost[last] = (lost[last] ?? 0) + share * (plain[k] ?? 0);
    }
  }
  return lost;
};

/** How a limiter's loops are run: plainly, or by kernels. */
export interface LimiterLoops {
  makeCurve: CurveMaker;
  addLosses: LossAdder;
}

const PLAIN_LOOPS: LimiterLoops = { makeCurve: curveStretch, addLosses };

/**
 * What a limiter would take from a programme, without touching its audio: each fine node loses what the curve takes from
 * its energy. Only stretches above the ceiling cost anything to compute.
 *
 * @param programme its rate, and how many 100 ms are complete
 */
export function limiterCost(
  source: FineSource,
  { sampleRateHz, bins }: { sampleRateHz: number; bins: number },
  settings: CurveSettings,
  loops: LimiterLoops = PLAIN_LOOPS,
): LimiterCost {
  const lostPower = new Float64Array(bins);
  const binFrames = sampleRateHz / BINS_PER_SECOND;
  const reductionsDb = new Float32Array(bins);
  let lostPlain = 0;
  const meter = new ReductionMeter();
  const binsPerNode = BINS_PER_SECOND / source.nodesPerSecond;
  for (let index = 0; index < curveBlocks(source); index++) {
    const block = curveBlock(source, index, settings, loops.makeCurve);
    meter.add(block, source.nodesPerSecond);
    const reductions = block.reductions[0] as Float32Array;
    const count = Math.min(CURVE_BLOCK, source.length - block.from);
    if (greatestOf(reductions) === 0) continue;
    const energies = source.readEnergies(block.from, block.from + count);
    const firstBin = Math.floor((block.from + 0.5) * binsPerNode);
    const edges = edgesOf(block.from, count, firstBin, binsPerNode);
    const lost = loops.addLosses(reductions, energies, edges);
    for (let span = 0; span < edges.length - 1 && firstBin + span < bins; span++) {
      const bin = firstBin + span;
      lostPower[bin] = (lostPower[bin] ?? 0) + (lost[span] ?? 0) / binFrames;
      const own = reductions.subarray(edges[span], (edges[span + 1] as number) + 1);
      reductionsDb[bin] = Math.max(reductionsDb[bin] ?? 0, greatestOf(own));
    }
    lostPlain += lost[edges.length - 1] ?? 0;
  }
  return { lostPower, lostPlain, reductionsDb, meter };
}

function greatestOf(reductions: Float32Array): number {
  let greatest = 0;
  for (let k = 0; k < reductions.length; k++) if ((reductions[k] ?? 0) > greatest) greatest = reductions[k] ?? 0;
  return greatest;
}

/** Where the nodes of each 100 ms begin within a block, and behind them all where it ends. */
function edgesOf(from: number, count: number, firstBin: number, binsPerNode: number): Int32Array {
  const lastBin = Math.floor((from + count - 0.5) * binsPerNode);
  const edges = new Int32Array(lastBin - firstBin + 2);
  for (let span = 1; span < edges.length - 1; span++) {
    edges[span] = Math.ceil((firstBin + span) / binsPerNode - 0.5) - from;
  }
  edges[edges.length - 1] = count;
  return edges;
}

/** Of programmes that follow each other, all limited alike. */
export function joinCosts(costs: readonly LimiterCost[]): LimiterCost {
  const meter = new ReductionMeter();
  const lostPower: number[] = [];
  const reductionsDb: number[] = [];
  let lostPlain = 0;
  for (const cost of costs) {
    for (const lost of cost.lostPower) lostPower.push(lost);
    for (const reductionDb of cost.reductionsDb) reductionsDb.push(reductionDb);
    lostPlain += cost.lostPlain;
    meter.absorb(cost.meter);
  }
  return {
    lostPower: Float64Array.from(lostPower),
    lostPlain,
    reductionsDb: Float32Array.from(reductionsDb),
    meter,
  };
}
