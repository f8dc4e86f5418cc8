import type { LimiterLoops, LossAdder } from '@/core/limiter/forecast';
import { CURVE_BLOCK, type CurveMaker, NEGLIGIBLE_DB } from '@/core/limiter/gain-curve';
import { LIMITER_WASM } from './generated/limiter-wasm';
import { instantiate, MemoryLayout } from './memory';

interface LoopExports {
  lose(reductions: number, weighted: number, plain: number, edges: number, spans: number, lost: number): void;
  setArea(at: number): void;
  curveStretch(
    asked: number,
    curve: number,
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

/** The limiter's curve in WebAssembly: the reference's, to the rounding of f32. Its memory grows with the stretches. */
export function createKernelCurveMaker(): CurveMaker {
  let most = 0;
  let widest = 0;
  let area: { exports: LoopExports; asked: Float32Array; curve: Float32Array; floor: number } | undefined;
  return (asked, { reach, gap, least, widened, floorWidth, widths, decay }) => {
    const widestNow = 2 * Math.max(reach, gap, least, widened, floorWidth) + 1;
    if (!area || asked.length > most || widestNow > widest) {
      most = Math.max(most, Math.ceil(1.5 * asked.length));
      widest = Math.max(widest, widestNow);
      area = curveArea(most, widest);
    }
    area.asked.set(asked);
    const { exports, curve, floor } = area;
    const places = [area.asked.byteOffset, curve.byteOffset, floor, asked.length] as const;
    exports.curveStretch(...places, reach, gap, least, widened, floorWidth, ...widths, decay, NEGLIGIBLE_DB);
    return curve.subarray(0, asked.length);
  };
}

function curveArea(most: number, widest: number) {
  const layout = new MemoryLayout();
  const asked = layout.reserve(4 * (most + MARGIN));
  const curve = layout.reserve(4 * (most + MARGIN));
  const floor = layout.reserve(4 * (most + MARGIN));
  const spread = layout.reserve(4 * (most + 2 * widest + 2 * MARGIN));
  const { exports, memory } = instantiate<LoopExports>(LIMITER_WASM, layout);
  exports.setArea(spread);
  return {
    exports,
    asked: new Float32Array(memory, asked, most),
    curve: new Float32Array(memory, curve, most),
    floor,
  };
}

/** Blocks of a gain reduction curve are of one length, and 100 ms have at least as many fine nodes as at the slowest rate. */
const MOST_SPANS = CURVE_BLOCK / 64;

/** What nodes lose, in WebAssembly: the reference's, to the rounding of f32. */
function createKernelLosses(): LossAdder {
  const layout = new MemoryLayout();
  const [reductions, weighted, plain] = [0, 1, 2].map(() => layout.reserve(4 * (CURVE_BLOCK + MARGIN))) as [
    number,
    number,
    number,
  ];
  const edges = layout.reserve(4 * MOST_SPANS);
  const lost = layout.reserve(8 * MOST_SPANS);
  const { exports, memory } = instantiate<LoopExports>(LIMITER_WASM, layout);
  const room = (at: number) => new Float32Array(memory, at, CURVE_BLOCK + MARGIN);
  const areas = { reductions: room(reductions), weighted: room(weighted), plain: room(plain) };
  const edgeArea = new Int32Array(memory, edges, MOST_SPANS);
  const lostArea = new Float64Array(memory, lost, MOST_SPANS);
  return (curve, energies, own) => {
    areas.reductions.set(curve);
    areas.weighted.set(energies.weighted);
    areas.plain.set(energies.plain);
    edgeArea.set(own);
    exports.lose(reductions, weighted, plain, edges, own.length - 1, lost);
    return lostArea.subarray(0, own.length);
  };
}

/** A limiter's loops, all by kernels. */
export function createKernelLoops(): LimiterLoops {
  return { makeCurve: createKernelCurveMaker(), addLosses: createKernelLosses() };
}
