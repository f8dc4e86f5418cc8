import { BINS_PER_SECOND } from '../units/frames';
import type { FineEnergies } from './fine-energy';
import {
  type NodePeaks,
  type StretchTracer,
  TRACE_BLOCK,
  type TraceSettings,
  traceBlock,
  traceBlocks,
  traceStretch,
} from './gain-trace';
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
  meter: ReductionMeter;
}

/** Shares of power that reductions take, in steps so fine that a straight line between two is exact to 1e-7. */
const STEPS_PER_DB = 100;
const MOST_DB = 40;
const LOST = Float64Array.from({ length: MOST_DB * STEPS_PER_DB + 2 }, (_, i) => 1 - 10 ** (-i / STEPS_PER_DB / 10));

/**
 * What a limiter would take from a programme, without touching its audio: each fine node loses what the trace takes from
 * its energy. Only stretches above the ceiling cost anything to compute.
 *
 * @param programme its rate, and how many 100 ms are complete
 */
export function limiterCost(
  source: FineSource,
  { sampleRateHz, bins }: { sampleRateHz: number; bins: number },
  settings: TraceSettings,
  trace: StretchTracer = traceStretch,
): LimiterCost {
  const lostPower = new Float64Array(bins);
  const binFrames = sampleRateHz / BINS_PER_SECOND;
  let lostPlain = 0;
  const meter = new ReductionMeter();
  const binsPerNode = BINS_PER_SECOND / source.nodesPerSecond;
  for (let index = 0; index < traceBlocks(source); index++) {
    const block = traceBlock(source, index, settings, trace);
    meter.add(block, source.nodesPerSecond);
    const reductions = block.reductions[0] as Float32Array;
    const count = Math.min(TRACE_BLOCK, source.length - block.from);
    if (!reductions.some((reductionDb) => reductionDb > 0)) continue;
    const { weighted, plain } = source.readEnergies(block.from, block.from + count);
    for (let k = 0; k < count; ) {
      const bin = Math.floor((block.from + k + 0.5) * binsPerNode);
      const end = Math.min(count, Math.max(k + 1, Math.ceil((bin + 1) / binsPerNode - 0.5) - block.from));
      let lostOfBin = 0;
      for (; k < end; k++) {
        // What a node holds is turned down from one value to the next; most of it stands where that is most.
        const [first, second] = [reductions[k] as number, reductions[k + 1] as number];
        const steps = (first + second + 2 * Math.max(first, second)) * (STEPS_PER_DB / 4);
        if (steps === 0) continue;
        const place = Math.min(LOST.length - 2, Math.floor(steps));
        const below = LOST[place] as number;
        const lost = below + (steps - place) * ((LOST[place + 1] as number) - below);
        lostOfBin += lost * (weighted[k] as number);
        lostPlain += lost * (plain[k] as number);
      }
      if (bin < bins) lostPower[bin] = (lostPower[bin] as number) + lostOfBin / binFrames;
    }
  }
  return { lostPower, lostPlain, meter };
}

/** Of programmes that follow each other, all limited alike. */
export function joinCosts(costs: readonly LimiterCost[]): LimiterCost {
  const meter = new ReductionMeter();
  const lostPower: number[] = [];
  let lostPlain = 0;
  for (const cost of costs) {
    for (const lost of cost.lostPower) lostPower.push(lost);
    lostPlain += cost.lostPlain;
    meter.absorb(cost.meter);
  }
  return { lostPower: Float64Array.from(lostPower), lostPlain, meter };
}
