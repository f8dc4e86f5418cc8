/** Coefficients of y = b0·x + b1·x₁ + b2·x₂ − a1·y₁ − a2·y₂, with a0 = 1. */
export interface Biquad {
  b0: number;
  b1: number;
  b2: number;
  a1: number;
  a2: number;
}

/*
 * The analogue prototype that reproduces the 48 kHz table of ITU-R BS.1770-5, Annex 1 (from memory) under the
 * bilinear transform. Every rate is derived from it; nothing is resampled to be measured.
 */
const SHELF_HZ = 1681.974450955533;
const SHELF_GAIN_DB = 3.999843853973347;
const SHELF_Q = 0.7071752369554196;
const SHELF_BAND_EXPONENT = 0.4996667741545416;
const HIGH_PASS_HZ = 38.13547087602444;
const HIGH_PASS_Q = 0.5003270373238773;
const TABLE_RATE_HZ = 48_000;

/** The two stages of K-weighting at a sample rate in Hz: high shelf, then high-pass. */
export function kWeighting(sampleRateHz: number): { shelf: Biquad; highPass: Biquad } {
  return { shelf: shelf(sampleRateHz), highPass: highPass(sampleRateHz) };
}

function shelf(sampleRateHz: number): Biquad {
  const k = Math.tan((Math.PI * SHELF_HZ) / sampleRateHz);
  const vh = 10 ** (SHELF_GAIN_DB / 20);
  const vb = vh ** SHELF_BAND_EXPONENT;
  const a0 = 1 + k / SHELF_Q + k * k;
  return {
    b0: (vh + (vb * k) / SHELF_Q + k * k) / a0,
    b1: (2 * (k * k - vh)) / a0,
    b2: (vh - (vb * k) / SHELF_Q + k * k) / a0,
    a1: (2 * (k * k - 1)) / a0,
    a2: (1 - k / SHELF_Q + k * k) / a0,
  };
}

/**
 * The table's numerator is 1, −2, 1 at 48 kHz, which is the bilinear transform of a prototype with a gain of a0(48 kHz).
 * That gain is kept at every rate, so that all of them pass the middle of the band alike (else 192 kHz reads 0.03 dB low).
 */
function highPass(sampleRateHz: number): Biquad {
  const { k, a0 } = highPassDenominator(sampleRateHz);
  const gain = highPassDenominator(TABLE_RATE_HZ).a0 / a0;
  return { b0: gain, b1: -2 * gain, b2: gain, a1: (2 * (k * k - 1)) / a0, a2: (1 - k / HIGH_PASS_Q + k * k) / a0 };
}

function highPassDenominator(sampleRateHz: number): { k: number; a0: number } {
  const k = Math.tan((Math.PI * HIGH_PASS_HZ) / sampleRateHz);
  return { k, a0: 1 + k / HIGH_PASS_Q + k * k };
}

/** Below this a filter state is nothing but a denormal number that slows every later sample down. */
const NEGLIGIBLE = 1e-30;

/** One channel's K-weighting filter, in transposed direct form II with f64 state. */
export class KWeightingFilter {
  readonly #shelf: Biquad;
  readonly #highPass: Biquad;
  #s1 = 0;
  #s2 = 0;
  #h1 = 0;
  #h2 = 0;

  constructor(sampleRateHz: number) {
    const { shelf, highPass } = kWeighting(sampleRateHz);
    // The high-pass numerator is a gain times 1, −2, 1: the gain goes into the shelf, which has multiplications anyway.
    const gain = highPass.b0;
    this.#shelf = { ...shelf, b0: shelf.b0 * gain, b1: shelf.b1 * gain, b2: shelf.b2 * gain };
    this.#highPass = highPass;
  }

  /**
   * Filters samples [start, end) and adds the squares of what comes out to a running sum, one by one: the result does
   * not depend on how the samples were cut into calls.
   */
  addSquares(samples: Float32Array, start: number, end: number, runningSum: number): number {
    const { b0, b1, b2, a1, a2 } = this.#shelf;
    const { a1: c1, a2: c2 } = this.#highPass;
    let s1 = this.#s1;
    let s2 = this.#s2;
    let h1 = this.#h1;
    let h2 = this.#h2;
    let sum = runningSum;
    for (let i = start; i < end; i++) {
      const x = samples[i] as number;
      const y = b0 * x + s1;
      s1 = b1 * x - a1 * y + s2;
      s2 = b2 * x - a2 * y;
      const z = y + h1;
      h1 = -2 * y - c1 * z + h2;
      h2 = y - c2 * z;
      sum += z * z;
    }
    this.#s1 = Math.abs(s1) < NEGLIGIBLE ? 0 : s1;
    this.#s2 = Math.abs(s2) < NEGLIGIBLE ? 0 : s2;
    this.#h1 = Math.abs(h1) < NEGLIGIBLE ? 0 : h1;
    this.#h2 = Math.abs(h2) < NEGLIGIBLE ? 0 : h2;
    return sum;
  }
}
