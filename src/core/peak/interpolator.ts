const { abs, fround } = Math;

/** Places between two samples that an interpolator has a value for; a reading goes on between them by a parabola. */
export const PHASES = 16;

/** How long an interpolator is, and the shape of its window: the longer, the nearer to half the rate its band reaches. */
export interface InterpolatorShape {
  /** Samples under each phase. */
  taps: number;
  kaiserBeta: number;
}

/**
 * Peaks are sought with this one, everywhere. Its ripple of a thousandth does not matter, since what it finds is read with
 * another; it passes all below 0.44 fs, so that what it finds is the greatest.
 */
export const SEARCH: InterpolatorShape = { taps: 32, kaiserBeta: 6 };
/** Samples of its window before the frame that is interpolated from (the frame itself is tap 15). */
export const TAPS_BEFORE = SEARCH.taps / 2 - 1;
/** What has been found is read with this one. It passes all below 0.494 fs; its ripple is 0.006 dB. */
export const READING: InterpolatorShape = { taps: 320, kaiserBeta: 6 };

/** Mirrored phases p and 16 − p share their even part and differ in the sign of their odd part. */
const PHASE_PAIRS = PHASES / 2;

export interface Interpolator {
  taps: number;
  /** For each of the phases 1 to 8, taps/2 coefficients for the sums of mirrored samples. */
  even: Float64Array;
  /** For each of the phases 1 to 8, taps/2 coefficients for their differences (zero in phase 8). */
  odd: Float64Array;
  /** Greatest L1 norm of a phase: |y| ≤ l1Norm · max|x| over the window. */
  l1Norm: number;
  /** |y| ≤ max(|xₙ|, |xₙ₊₁|) + curvatureNorm · max|xᵢ₋₁ − 2xᵢ + xᵢ₊₁| over the window. */
  curvatureNorm: number;
  /** For the curvature around each sample of the window from its second on, the greatest weight in magnitude that any phase gives to it. */
  curvatureWeights: Float64Array;
}

/**
 * Kaiser-windowed sinc in 16 phases, oversampling as ITU-R BS.1770-5, Annex 2 describes (from memory) with a longer
 * filter. Each phase's sum and first moment are made exact by correcting its two middle taps: a straight line is
 * interpolated to itself, so what a phase adds to it is bounded by the second differences of the samples.
 */
export function createInterpolator(shape: InterpolatorShape): Interpolator {
  const tapCount = shape.taps;
  const half = tapCount / 2;
  const even = new Float64Array(PHASE_PAIRS * half);
  const odd = new Float64Array(PHASE_PAIRS * half);
  let l1Norm = 1;
  let curvatureNorm = 0;
  const curvatureWeights = new Float64Array(tapCount);
  for (let phase = 1; phase <= PHASE_PAIRS; phase++) {
    const taps = phaseTaps(phase / PHASES, shape);
    for (let i = 0, at = (phase - 1) * half; i < half; i++, at++) {
      const left = taps[i] ?? 0;
      const right = taps[tapCount - 1 - i] ?? 0;
      even[at] = (left + right) / 2;
      odd[at] = (left - right) / 2;
    }
    const norm = taps.reduce((total, tap) => total + Math.abs(tap), 0);
    l1Norm = Math.max(l1Norm, norm);
    const weights = curvatureWeightsOf(taps, phase / PHASES).map(abs);
    curvatureNorm = Math.max(
      curvatureNorm,
      weights.reduce((total, weight) => total + weight, 0),
    );
    // The mirrored phase gives the same weights in reverse: around n + 1 − k what this one gives around n + k.
    weights.forEach((weight, i) => {
      const mirror = tapCount - 3 - i;
      curvatureWeights[i] = Math.max(curvatureWeights[i] ?? 0, weight);
      if (mirror >= 0) curvatureWeights[mirror] = Math.max(curvatureWeights[mirror] ?? 0, weight);
    });
  }
  return { taps: tapCount, even, odd, l1Norm, curvatureNorm, curvatureWeights };
}

/**
 * Coefficients of one phase, `fraction` of the way from a sample to the next; the sample itself has the one at taps/2 − 1. Their
 * sum is 1 and their first moment is the fraction.
 */
export function phaseTaps(fraction: number, { taps: length, kaiserBeta }: InterpolatorShape): Float64Array {
  const half = length / 2;
  const before = half - 1;
  const taps = Float64Array.from({ length }, (_, i) => windowedSinc(fraction - (i - before), half, kaiserBeta));
  const sum = taps.reduce((total, tap) => total + tap, 0);
  const moment = taps.reduce((total, tap, i) => total + (i - before) * tap, 0);
  const toNext = fraction - moment;
  taps[half] = (taps[half] ?? 0) + toNext;
  taps[before] = (taps[before] ?? 0) + 1 - sum - toNext;
  return taps;
}

const MOST_TAPS = 64;
const sums = new Float64Array(MOST_TAPS / 2);
const differences = new Float64Array(MOST_TAPS / 2);

/**
 * Greatest magnitude of the 15 values interpolated between sample n and the next, where the window begins at
 * `windowStart` = n − (taps/2 − 1), for at most 64 taps. Of a mirrored pair E ± O, that is |E| + |O|.
 */
export function interpolatedPeak(
  { taps, even, odd }: Interpolator,
  samples: Float32Array,
  windowStart: number,
): number {
  const half = taps / 2;
  const mirror = windowStart + taps - 1;
  for (let i = 0; i < half; i++) {
    const left = samples[windowStart + i] ?? 0;
    const right = samples[mirror - i] ?? 0;
    sums[i] = left + right;
    differences[i] = left - right;
  }
  let peak = 0;
  for (let pair = 0; pair < PHASE_PAIRS; pair++) {
    const at = pair * half;
    let e0 = 0;
    let e1 = 0;
    let o0 = 0;
    let o1 = 0;
    for (let i = 0; i < half; i += 2) {
      e0 += (even[at + i] ?? 0) * (sums[i] ?? 0);
      e1 += (even[at + i + 1] ?? 0) * (sums[i + 1] ?? 0);
      o0 += (odd[at + i] ?? 0) * (differences[i] ?? 0);
      o1 += (odd[at + i + 1] ?? 0) * (differences[i + 1] ?? 0);
    }
    const value = abs(e0 + e1) + abs(o0 + o1);
    if (value > peak) peak = value;
  }
  return peak;
}

/** An interpolator's even and odd parts in f32. */
export interface Screen {
  taps: number;
  even: Float32Array;
  odd: Float32Array;
}

/** What a value of `screenedPeak` may be off by, in parts of the greatest sample under the window: some fifty roundings. */
export const SCREEN_ROUNDING = 2e-5;

/** `interpolatedPeak` in f32, as the kernel computes it for all phases side by side: the same additions in the same order. */
export function screenedPeak({ taps, even, odd }: Screen, samples: Float32Array, windowStart: number): number {
  const half = taps / 2;
  const mirror = windowStart + taps - 1;
  for (let i = 0; i < half; i++) {
    const left = samples[windowStart + i] ?? 0;
    const right = samples[mirror - i] ?? 0;
    sums[i] = fround(left + right);
    differences[i] = fround(left - right);
  }
  let peak = 0;
  for (let pair = 0, at = 0; pair < PHASE_PAIRS; pair++) {
    let e = 0;
    let o = 0;
    for (let i = 0; i < half; i++, at++) {
      e = fround(e + fround((even[at] ?? 0) * (sums[i] ?? 0)));
      o = fround(o + fround((odd[at] ?? 0) * (differences[i] ?? 0)));
    }
    const value = fround(abs(e) + abs(o));
    if (value > peak) peak = value;
  }
  return peak;
}

/**
 * The value between a sample and the next, at one of the 15 phases between them. Around the samples given there is silence.
 *
 * @param frame index of the sample
 * @param phase sixteenths of the way to the next, 1 to 15
 */
export function interpolatedAt(
  { taps, even, odd }: Interpolator,
  samples: Float32Array,
  frame: number,
  phase: number,
): number {
  const half = taps / 2;
  const start = frame - (half - 1);
  const pair = Math.min(phase, PHASES - phase);
  // The mirrored phase has its odd part the other way round.
  const sign = phase === pair ? 1 : -1;
  let value = 0;
  for (let i = 0, at = (pair - 1) * half; i < half; i++, at++) {
    const left = samples[start + i] ?? 0;
    const right = samples[start + taps - 1 - i] ?? 0;
    value += (even[at] ?? 0) * (left + right) + sign * (odd[at] ?? 0) * (left - right);
  }
  return value;
}

/**
 * The weights g in Σ dₖ·xₖ = Σ gₖ·Δ²xₖ, where d is what the phase adds to linear interpolation and Δ²xₖ stands around
 * sample k. Since d has neither sum nor first moment, g is its double running sum and ends at zero.
 */
function curvatureWeightsOf(taps: Float64Array, fraction: number): Float64Array {
  const half = taps.length / 2;
  const weights = new Float64Array(taps.length);
  let running = 0;
  let doubleRunning = 0;
  for (let i = 0; i < taps.length; i++) {
    const linear = i === half - 1 ? 1 - fraction : i === half ? fraction : 0;
    running += (taps[i] ?? 0) - linear;
    doubleRunning += running;
    weights[i] = doubleRunning;
  }
  return weights;
}

function windowedSinc(t: number, half: number, kaiserBeta: number): number {
  const window = besselI0(kaiserBeta * Math.sqrt(Math.max(0, 1 - (t / half) ** 2))) / besselI0(kaiserBeta);
  return window * (t === 0 ? 1 : Math.sin(Math.PI * t) / (Math.PI * t));
}

/** Modified Bessel function of the first kind, order zero, by its power series. */
function besselI0(x: number): number {
  let sum = 1;
  let term = 1;
  for (let k = 1; term > sum * 1e-17; k++) {
    term *= (x / (2 * k)) ** 2;
    sum += term;
  }
  return sum;
}
