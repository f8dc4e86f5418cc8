import { BINS_PER_SECOND, gridFrame } from '../units/frames';
import { Growable } from '../units/growable';
import { createInterpolator, interpolatedPeak, TAPS_BEFORE } from './interpolator';

const { abs, max, min } = Math;

const BLOCK = 16;
/** Blocks needed around the one that is searched: one before and one after hold its whole window. */
const CONTEXT = 2 * BLOCK;
/** Bounds are widened by more than their rounding, so that pruning never hides a peak that brute force finds. */
const ROUNDING_GUARD = 1 + 1e-9;

const INTERPOLATOR = createInterpolator();

/**
 * True peak of one channel for every 100 ms, by 16× oversampling with 32 taps a phase.
 *
 * Blocks of 16 frames that two bounds show unable to beat their bin's present maximum are skipped; the result is that
 * of searching everywhere. Silence is assumed around the programme, and the ringing into it counts: it is played too.
 */
export class TruePeakMeter {
  /** Greatest magnitude of every 100 ms bin so far closed, and the frame at or after which it stands. */
  readonly binPeaks = new Growable(Float64Array);
  readonly binFrames = new Growable(Float64Array);
  readonly #sampleRateHz: number;
  readonly #prune: boolean;
  /** [before | block | after | arriving …]: the block under search starts at BLOCK. */
  readonly #samples: Float32Array;
  #filled = CONTEXT;
  /** Frame number of the block under search; the first two blocks are the silence ahead. */
  #blockFrame = -BLOCK;
  /** Magnitude and curvature maxima of the three blocks in view. */
  readonly #magnitudes = new Float64Array(3);
  readonly #curvatures = new Float64Array(3);
  #bin = 0;
  #binEnd: number;
  #binPeak = 0;
  #binFrame = 0;

  /** @param options.prune false searches everywhere: the reference that pruning must equal bit for bit */
  constructor(sampleRateHz: number, maxFrames: number, options: { prune: boolean } = { prune: true }) {
    this.#sampleRateHz = sampleRateHz;
    this.#prune = options.prune;
    this.#samples = new Float32Array(CONTEXT + maxFrames + 3 * BLOCK);
    this.#binEnd = gridFrame(1, BINS_PER_SECOND, sampleRateHz);
  }

  process(samples: Float32Array, frames: number): void {
    this.#samples.set(frames === samples.length ? samples : samples.subarray(0, frames), this.#filled);
    this.#filled += frames;
    this.#search();
  }

  /** Closes the last bin of a programme of `frames` frames. */
  finish(frames: number): void {
    const padded = BLOCK - (this.#filled % BLOCK || BLOCK) + CONTEXT;
    this.#samples.fill(0, this.#filled, this.#filled + padded);
    this.#filled += padded;
    this.#search(frames);
    if (frames > gridFrame(this.#bin, BINS_PER_SECOND, this.#sampleRateHz)) this.#closeBin(frames);
  }

  #closeBin(lastFrame: number): void {
    this.binPeaks.push(this.#binPeak);
    this.binFrames.push(min(max(this.#binFrame, 0), lastFrame - 1));
    this.#bin++;
    this.#binEnd = gridFrame(this.#bin + 1, BINS_PER_SECOND, this.#sampleRateHz);
    this.#binPeak = 0;
    this.#binFrame = gridFrame(this.#bin, BINS_PER_SECOND, this.#sampleRateHz);
  }

  /** Searches every block whose next block is complete; at the end, the last bin takes what rings behind it. */
  #search(programmeFrames = Number.POSITIVE_INFINITY): void {
    const samples = this.#samples;
    let start = BLOCK;
    while (start + CONTEXT <= this.#filled) {
      this.#admit(start + BLOCK);
      const bound = this.#bound(start);
      for (let i = start, n = this.#blockFrame; i < start + BLOCK; ) {
        if (n >= this.#binEnd && n < programmeFrames) this.#closeBin(programmeFrames);
        const end = n < programmeFrames ? min(start + BLOCK, i + this.#binEnd - n) : start + BLOCK;
        if (!this.#prune || bound > this.#binPeak) this.#searchFrames(i, end, n);
        n += end - i;
        i = end;
      }
      start += BLOCK;
      this.#blockFrame += BLOCK;
    }
    const keptFrom = start - BLOCK;
    samples.copyWithin(0, keptFrom, this.#filled);
    this.#filled -= keptFrom;
  }

  /** Takes the maxima of the block that comes into view; its curvature reaches back two samples. */
  #admit(start: number): void {
    const samples = this.#samples;
    let magnitude = 0;
    let curvature = 0;
    let a = samples[start - 2] as number;
    let b = samples[start - 1] as number;
    for (let i = start; i < start + BLOCK; i++) {
      const c = samples[i] as number;
      magnitude = max(magnitude, abs(c));
      curvature = max(curvature, abs(a - 2 * b + c));
      a = b;
      b = c;
    }
    this.#magnitudes.copyWithin(0, 1);
    this.#magnitudes[2] = magnitude;
    this.#curvatures.copyWithin(0, 1);
    this.#curvatures[2] = curvature;
  }

  /** What no value interpolated in the block can exceed. */
  #bound(start: number): number {
    const byMagnitude = INTERPOLATOR.l1Norm * greatestOfThree(this.#magnitudes);
    const nearest = max(this.#magnitudes[1] as number, abs(this.#samples[start + BLOCK] as number));
    return min(byMagnitude, nearest + this.#curvatureReach()) * ROUNDING_GUARD;
  }

  #curvatureReach(): number {
    return INTERPOLATOR.curvatureNorm * greatestOfThree(this.#curvatures);
  }

  #searchFrames(start: number, end: number, firstFrame: number): void {
    const samples = this.#samples;
    const reach = this.#prune ? this.#curvatureReach() : Number.POSITIVE_INFINITY;
    let peak = this.#binPeak;
    for (let i = start; i < end; i++) {
      const here = abs(samples[i] as number);
      if (here > peak) {
        peak = here;
        this.#binFrame = firstFrame + i - start;
      }
      const next = abs(samples[i + 1] as number);
      if ((max(here, next) + reach) * ROUNDING_GUARD <= peak) continue;
      const between = interpolatedPeak(INTERPOLATOR, samples, i - TAPS_BEFORE);
      if (between > peak) {
        peak = between;
        this.#binFrame = firstFrame + i - start;
      }
    }
    this.#binPeak = peak;
  }
}

function greatestOfThree(values: Float64Array): number {
  return max(values[0] as number, values[1] as number, values[2] as number);
}
