import { BINS_PER_SECOND, gridFrame } from '../units/frames';
import { Growable } from '../units/growable';
import { createInterpolator, PHASES, SCREEN_ROUNDING, SEARCH, screenedPeak, TAPS_BEFORE } from './interpolator';
import { READING_BEFORE, READING_BEHIND, readPeak } from './peak-reading';

const { abs, max, min } = Math;

const BLOCK = 16;
/** Whole blocks on either side of the one that is searched, for reading what is found in it. */
const AROUND = Math.ceil(Math.max(READING_BEFORE, READING_BEHIND) / BLOCK) * BLOCK;
/** Bounds are widened by more than their rounding, so that pruning never hides a peak that brute force finds. */
const ROUNDING_GUARD = 1 + 1e-9;
/** Of numbers this small the rounding is no longer a part of them. */
const LEAST_ROUNDING = 1e-37;

const INTERPOLATOR = createInterpolator(SEARCH);
const SCREEN = {
  taps: INTERPOLATOR.taps,
  even: Float32Array.from(INTERPOLATOR.even),
  odd: Float32Array.from(INTERPOLATOR.odd),
};

/**
 * True peak of one channel for every 100 ms, by 16× oversampling: sought everywhere with 32 taps a phase, and where those find
 * the greatest, read with 320.
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
  /** [before | block | behind | arriving …]: the block under search starts at AROUND. */
  readonly #samples: Float32Array;
  #filled = AROUND + BLOCK;
  /** Frame number of the block under search; the first one and what is before it are the silence ahead. */
  #blockFrame = -BLOCK;
  /** Magnitude and curvature maxima of the block under search and its neighbours. */
  readonly #magnitudes = new Float64Array(3);
  readonly #curvatures = new Float64Array(3);
  #bin = 0;
  #binEnd: number;
  /** What the search has found in the bin, and the samples around it. */
  #binPeak = 0;
  #binFrame = 0;
  readonly #found = new Float32Array(READING_BEFORE + 1 + READING_BEHIND);
  /** The bin's greatest sample. */
  #binSample = 0;
  #binSampleFrame = 0;

  /** @param options.prune false searches everywhere: the reference that pruning must equal bit for bit */
  constructor(sampleRateHz: number, maxFrames: number, options: { prune: boolean } = { prune: true }) {
    this.#sampleRateHz = sampleRateHz;
    this.#prune = options.prune;
    this.#samples = new Float32Array(2 * (AROUND + BLOCK + AROUND) + maxFrames);
    this.#binEnd = gridFrame(1, BINS_PER_SECOND, sampleRateHz);
  }

  process(samples: Float32Array, frames: number): void {
    this.#samples.set(frames === samples.length ? samples : samples.subarray(0, frames), this.#filled);
    this.#filled += frames;
    this.#search();
  }

  /** Closes the last bin of a programme of `frames` frames. */
  finish(frames: number): void {
    const padded = BLOCK - (this.#filled % BLOCK || BLOCK) + BLOCK + AROUND;
    this.#samples.fill(0, this.#filled, this.#filled + padded);
    this.#filled += padded;
    this.#search(frames);
    if (frames > gridFrame(this.#bin, BINS_PER_SECOND, this.#sampleRateHz)) this.#closeBin(frames);
  }

  #closeBin(lastFrame: number): void {
    const read = this.#binPeak > 0 ? readPeak(this.#found, READING_BEFORE, PHASES) : 0;
    // The search's filter may read too high, and what is read there then be less than a sample elsewhere.
    const isSample = this.#binSample > read;
    const frame = isSample ? this.#binSampleFrame : this.#binFrame;
    this.binPeaks.push(isSample ? this.#binSample : read);
    this.binFrames.push(min(max(frame, 0), lastFrame - 1));
    this.#bin++;
    this.#binEnd = gridFrame(this.#bin + 1, BINS_PER_SECOND, this.#sampleRateHz);
    this.#binPeak = 0;
    this.#binSample = 0;
    this.#binFrame = gridFrame(this.#bin, BINS_PER_SECOND, this.#sampleRateHz);
  }

  /** Searches every block that has enough behind it; at the end, the last bin takes what rings behind it. */
  #search(programmeFrames = Number.POSITIVE_INFINITY): void {
    const samples = this.#samples;
    let start = AROUND;
    while (start + BLOCK + AROUND <= this.#filled) {
      this.#admit(start + BLOCK);
      const bound = this.#bound(start);
      for (let i = start, n = this.#blockFrame; i < start + BLOCK; ) {
        if (n >= this.#binEnd && n < programmeFrames) this.#closeBin(programmeFrames);
        const end = n < programmeFrames ? min(start + BLOCK, i + this.#binEnd - n) : start + BLOCK;
        if (!this.#prune || (this.#magnitudes[1] ?? 0) > this.#binSample) this.#takeSamples(i, end, n);
        if (!this.#prune || bound > this.#binPeak) this.#searchFrames(i, end, n);
        n += end - i;
        i = end;
      }
      start += BLOCK;
      this.#blockFrame += BLOCK;
    }
    const keptFrom = start - AROUND;
    samples.copyWithin(0, keptFrom, this.#filled);
    this.#filled -= keptFrom;
  }

  /** Takes the maxima of the block that comes into view; its curvature reaches back two samples. */
  #admit(start: number): void {
    const samples = this.#samples;
    let magnitude = 0;
    let curvature = 0;
    let a = samples[start - 2] ?? 0;
    let b = samples[start - 1] ?? 0;
    for (let i = start; i < start + BLOCK; i++) {
      const c = samples[i] ?? 0;
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
    const byMagnitude = INTERPOLATOR.l1Norm * greatestOfThree(this.#magnitudes) + this.#rounding();
    const nearest = max(this.#magnitudes[1] ?? 0, abs(this.#samples[start + BLOCK] ?? 0));
    return min(byMagnitude, nearest + this.#reach()) * ROUNDING_GUARD;
  }

  /** By how much what is between two samples may be more than both. */
  #reach(): number {
    return INTERPOLATOR.curvatureNorm * greatestOfThree(this.#curvatures) + this.#rounding();
  }

  #rounding(): number {
    const magnitude = greatestOfThree(this.#magnitudes);
    return SCREEN_ROUNDING * magnitude + min(magnitude, LEAST_ROUNDING);
  }

  #takeSamples(start: number, end: number, firstFrame: number): void {
    for (let i = start; i < end; i++) {
      const magnitude = abs(this.#samples[i] ?? 0);
      if (magnitude <= this.#binSample) continue;
      this.#binSample = magnitude;
      this.#binSampleFrame = firstFrame + i - start;
    }
  }

  #searchFrames(start: number, end: number, firstFrame: number): void {
    const samples = this.#samples;
    const reach = this.#prune ? this.#reach() : Number.POSITIVE_INFINITY;
    let peak = this.#binPeak;
    let found = -1;
    for (let i = start; i < end; i++) {
      const here = abs(samples[i] ?? 0);
      if (here > peak) {
        peak = here;
        found = i;
      }
      const next = abs(samples[i + 1] ?? 0);
      if ((max(here, next) + reach) * ROUNDING_GUARD <= peak) continue;
      const between = screenedPeak(SCREEN, samples, i - TAPS_BEFORE);
      if (between > peak) {
        peak = between;
        found = i;
      }
    }
    if (found < 0) return;
    this.#binPeak = peak;
    this.#binFrame = firstFrame + found - start;
    this.#found.set(samples.subarray(found - READING_BEFORE, found + READING_BEHIND + 1));
  }
}

function greatestOfThree(values: Float64Array): number {
  return max(values[0] ?? 0, values[1] ?? 0, values[2] ?? 0);
}
