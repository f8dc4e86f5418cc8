import type { LimiterLoops, LossAdder } from '@/core/limiter/forecast';
import { NEGLIGIBLE_DB, type StretchTracer, TRACE_BLOCK } from '@/core/limiter/gain-trace';
import { LIMITER_WASM } from './generated/limiter-wasm';
import { instantiate, MemoryLayout } from './memory';

interface LoopExports {
  lose(reductions: number, weighted: number, plain: number, edges: number, spans: number, lost: number): void;
  setArea(at: number): void;
  traceStretch(
    asked: number,
    trace: number,
    floor: number,
    count: number,
    reach: number,
    gap: number,
    least: number,
    widened: number,
    floorWidth: number,
    width0: number,
    width1: number,
    width2: number,
    decay: number,
    negligible: number,
  ): void;
}

/** Vectors are loaded and stored whole where only their first values count. */
const MARGIN = 16;

/** The limiter's trace in WebAssembly: the reference's, to the rounding of f32. Its memory grows with the stretches. */
export function createKernelTracer(): StretchTracer {
  let most = 0;
  let widest = 0;
  let area: { exports: LoopExports; asked: Float32Array; trace: Float32Array; floor: number } | undefined;
  return (asked, { reach, gap, least, widened, floorWidth, widths, decay }) => {
    const widestNow = 2 * Math.max(reach, gap, least, widened, floorWidth) + 1;
    if (!area || asked.length > most || widestNow > widest) {
      most = Math.max(most, Math.ceil(1.5 * asked.length));
      widest = Math.max(widest, widestNow);
      area = tracerArea(most, widest);
    }
    area.asked.set(asked);
    const { exports, trace, floor } = area;
    const places = [area.asked.byteOffset, trace.byteOffset, floor, asked.length] as const;
    exports.traceStretch(...places, reach, gap, least, widened, floorWidth, ...widths, decay, NEGLIGIBLE_DB);
    return trace.subarray(0, asked.length);
  };
}

function tracerArea(most: number, widest: number) {
  const layout = new MemoryLayout();
  const asked = layout.reserve(4 * (most + MARGIN));
  const trace = layout.reserve(4 * (most + MARGIN));
  const floor = layout.reserve(4 * (most + MARGIN));
  const spread = layout.reserve(4 * (most + 2 * widest + 2 * MARGIN));
  const { exports, memory } = instantiate<LoopExports>(LIMITER_WASM, layout);
  exports.setArea(spread);
  return {
    exports,
    asked: new Float32Array(memory, asked, most),
    trace: new Float32Array(memory, trace, most),
    floor,
  };
}

/** Blocks of a trace are of one length, and 100 ms have at least as many fine nodes as at the slowest rate. */
const MOST_SPANS = TRACE_BLOCK / 64;

/** What nodes lose, in WebAssembly: the reference's, to the rounding of f32. */
function createKernelLosses(): LossAdder {
  const layout = new MemoryLayout();
  const [reductions, weighted, plain] = [0, 1, 2].map(() => layout.reserve(4 * (TRACE_BLOCK + MARGIN))) as [
    number,
    number,
    number,
  ];
  const edges = layout.reserve(4 * MOST_SPANS);
  const lost = layout.reserve(8 * MOST_SPANS);
  const { exports, memory } = instantiate<LoopExports>(LIMITER_WASM, layout);
  const room = (at: number) => new Float32Array(memory, at, TRACE_BLOCK + MARGIN);
  const areas = { reductions: room(reductions), weighted: room(weighted), plain: room(plain) };
  const edgeArea = new Int32Array(memory, edges, MOST_SPANS);
  const lostArea = new Float64Array(memory, lost, MOST_SPANS);
  return (trace, energies, own) => {
    areas.reductions.set(trace);
    areas.weighted.set(energies.weighted);
    areas.plain.set(energies.plain);
    edgeArea.set(own);
    exports.lose(reductions, weighted, plain, edges, own.length - 1, lost);
    return lostArea.subarray(0, own.length);
  };
}

/** A limiter's loops, all by kernels. */
export function createKernelLoops(): LimiterLoops {
  return { trace: createKernelTracer(), addLosses: createKernelLosses() };
}
