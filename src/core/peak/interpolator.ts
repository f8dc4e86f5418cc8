const { abs } = Math;

/** Phases between two samples: a sine up to 0.45 fs is under-read by 0.034 dB at most. */
const PHASES = 16;
/** Samples under each phase, for the meter. A filter this long passes all below 0.42 fs. */
export const METER_TAPS = 32;
/** Samples of the meter's window before the frame that is interpolated from (the frame itself is tap 15). */
export const TAPS_BEFORE = METER_TAPS / 2 - 1;

const KAISER_BETA = 8;

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
export function createInterpolator(tapCount = METER_TAPS): Interpolator {
  const half = tapCount / 2;
  const even = new Float64Array(PHASE_PAIRS * half);
  const odd = new Float64Array(PHASE_PAIRS * half);
  let l1Norm = 1;
  let curvatureNorm = 0;
  const curvatureWeights = new Float64Array(tapCount);
  for (let phase = 1; phase <= PHASE_PAIRS; phase++) {
    const taps = phaseTaps(phase / PHASES, tapCount);
    for (let i = 0, at = (phase - 1) * half; i < half; i++, at++) {
      const left = taps[i] as number;
      const right = taps[tapCount - 1 - i] as number;
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
      curvatureWeights[i] = Math.max(curvatureWeights[i] as number, weight);
      if (mirror >= 0) curvatureWeights[mirror] = Math.max(curvatureWeights[mirror] as number, weight);
    });
  }
  return { taps: tapCount, even, odd, l1Norm, curvatureNorm, curvatureWeights };
}

function phaseTaps(fraction: number, tapCount: number): Float64Array {
  const half = tapCount / 2;
  const before = half - 1;
  const taps = Float64Array.from({ length: tapCount }, (_, i) => windowedSinc(fraction - (i - before), half));
  const sum = taps.reduce((total, tap) => total + tap, 0);
  const moment = taps.reduce((total, tap, i) => total + (i - before) * tap, 0);
  const toNext = fraction - moment;
  taps[half] = (taps[half] as number) + toNext;
  taps[before] = (taps[before] as number) + 1 - sum - toNext;
  return taps;
}

const MOST_TAPS = 64;
const sums = new Float64Array(MOST_TAPS / 2);
const differences = new Float64Array(MOST_TAPS / 2);

/**
 * Greatest magnitude of the 15 values interpolated between sample n and the next, where the window begins at
 * `windowStart` = n − (taps/2 − 1). Of a mirrored pair E ± O, that is |E| + |O|.
 */
export function interpolatedPeak(
  { taps, even, odd }: Interpolator,
  samples: Float32Array,
  windowStart: number,
): number {
  const half = taps / 2;
  const mirror = windowStart + taps - 1;
  for (let i = 0; i < half; i++) {
    const left = samples[windowStart + i] as number;
    const right = samples[mirror - i] as number;
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
      e0 += (even[at + i] as number) * (sums[i] as number);
      e1 += (even[at + i + 1] as number) * (sums[i + 1] as number);
      o0 += (odd[at + i] as number) * (differences[i] as number);
      o1 += (odd[at + i + 1] as number) * (differences[i + 1] as number);
    }
    const value = abs(e0 + e1) + abs(o0 + o1);
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
    value += (even[at] as number) * (left + right) + sign * (odd[at] as number) * (left - right);
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
    running += (taps[i] as number) - linear;
    doubleRunning += running;
    weights[i] = doubleRunning;
  }
  return weights;
}

function windowedSinc(t: number, half: number): number {
  const window = besselI0(KAISER_BETA * Math.sqrt(Math.max(0, 1 - (t / half) ** 2))) / besselI0(KAISER_BETA);
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
