/** Coefficients of y = b0·x + b1·x₁ + b2·x₂ − a1·y₁ − a2·y₂, with a0 = 1. */
export interface Biquad {
  b0: number;
  b1: number;
  b2: number;
  a1: number;
  a2: number;
}

/** The two stages of K-weighting. */
export interface KWeighting {
  shelf: Biquad;
  highPass: Biquad;
}

/** ITU-R BS.1770-5, Annex 1, tables 1 and 2 (from memory). They hold for one rate; at any other the same curve is to be met. */
const TABLE_RATE_HZ = 48_000;
const TABLE: KWeighting = {
  shelf: {
    b0: 1.53512485958697,
    b1: -2.69169618940638,
    b2: 1.19839281085285,
    a1: -1.69065929318241,
    a2: 0.73248077421585,
  },
  highPass: { b0: 1, b1: -2, b2: 1, a1: -1.99004745483398, a2: 0.99007225036621 },
};

/**
 * Where a filter at another rate is given the very gain of the table, in parts of the lower of the two rates. Between and
 * beyond them the curves differ most at 8 kHz, by 0.013 dB up to 0.45 of the rate; these two places make that least.
 */
const MATCHED_LOW = 0.19;
const MATCHED_HIGH = 0.41;

/**
 * K-weighting at a sample rate of 8 kHz or more, in Hz: high shelf, then high-pass with a numerator of a gain times 1, −2, 1.
 *
 * The poles are those of the table, moved to the rate (z → z to the power of 48 000 ÷ rate), and the numerators give the table's
 * gain at chosen frequencies. The bilinear transform instead would squeeze the curve below half the rate: 0.28 dB at 8 kHz.
 * Method: M. Vicanek, "Matched Second Order Digital Filters", 2016 (from memory).
 */
export function kWeighting(sampleRateHz: number): KWeighting {
  if (sampleRateHz === TABLE_RATE_HZ) return TABLE;
  return { shelf: matchedShelf(sampleRateHz), highPass: matchedHighPass(sampleRateHz) };
}

/** The squared magnitude of a numerator, or of a denominator, is a sum of three of these terms; `turn` is frequency ÷ rate. */
function squaredTerms(turn: number): readonly [number, number, number] {
  const high = Math.sin(Math.PI * turn) ** 2;
  const low = 1 - high;
  return [low, high, 4 * low * high];
}

function squared(c0: number, c1: number, c2: number, turn: number): number {
  const [low, high, both] = squaredTerms(turn);
  return (c0 + c1 + c2) ** 2 * low + (c0 - c1 + c2) ** 2 * high - 4 * c0 * c2 * both;
}

/** |H|² of a stage at a frequency ÷ rate. */
function powerGain({ b0, b1, b2, a1, a2 }: Biquad, turn: number): number {
  return squared(b0, b1, b2, turn) / squared(1, a1, a2, turn);
}

/** The table's pair of complex poles at another rate. */
function movedPoles({ a1, a2 }: Biquad, sampleRateHz: number): { a1: number; a2: number } {
  const exponent = TABLE_RATE_HZ / sampleRateHz;
  const radius = Math.sqrt(a2) ** exponent;
  const angle = Math.acos(-a1 / (2 * Math.sqrt(a2))) * exponent;
  return { a1: -2 * radius * Math.cos(angle), a2: radius * radius };
}

function matchedShelf(sampleRateHz: number): Biquad {
  const { a1, a2 } = movedPoles(TABLE.shelf, sampleRateHz);
  const lowerHz = Math.min(sampleRateHz, TABLE_RATE_HZ);
  // The numerator's squared magnitude, term by term: the first from the gain at 0 Hz, the others from two equations.
  const low = squared(1, a1, a2, 0) * powerGain(TABLE.shelf, 0);
  const [first, second] = [MATCHED_LOW, MATCHED_HIGH].map((part) => {
    const turn = (part * lowerHz) / sampleRateHz;
    const wanted = powerGain(TABLE.shelf, (part * lowerHz) / TABLE_RATE_HZ) * squared(1, a1, a2, turn);
    const [l, h, b] = squaredTerms(turn);
    return { h, b, rest: wanted - low * l };
  }) as [Equation, Equation];
  const determinant = first.h * second.b - first.b * second.h;
  const high = (first.rest * second.b - first.b * second.rest) / determinant;
  const both = (first.h * second.rest - first.rest * second.h) / determinant;
  // Of the numerators with that magnitude, the one whose zeros lie within the unit circle.
  const half = (Math.sqrt(low) + Math.sqrt(high)) / 2;
  const b0 = (half + Math.sqrt(half * half + both)) / 2;
  return { b0, b1: (Math.sqrt(low) - Math.sqrt(high)) / 2, b2: -both / (4 * b0), a1, a2 };
}

/** h · high + b · both = rest */
interface Equation {
  h: number;
  b: number;
  rest: number;
}

function matchedHighPass(sampleRateHz: number): Biquad {
  const { a1, a2 } = movedPoles(TABLE.highPass, sampleRateHz);
  const hz = MATCHED_LOW * Math.min(sampleRateHz, TABLE_RATE_HZ);
  const plain = powerGain({ b0: 1, b1: -2, b2: 1, a1, a2 }, hz / sampleRateHz);
  const gain = Math.sqrt(powerGain(TABLE.highPass, hz / TABLE_RATE_HZ) / plain);
  return { b0: gain, b1: -2 * gain, b2: gain, a1, a2 };
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
