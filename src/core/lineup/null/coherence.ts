import { fftOf } from './fft-of';

const BLOCK_FRAMES = 4096;
const HOP_FRAMES = BLOCK_FRAMES / 2;

/**
 * Says how far one signal may be made of another by any filter that stays the same: coherence (Carter, Knapp and Nuttall 1973, from
 * memory), by blocks that overlap by half, weighted by where the first has its power. 1 for a filtered copy; 1 / blocks for a stranger.
 */
export class Coherence {
  readonly #fft = fftOf(BLOCK_FRAMES);
  readonly #window = Float64Array.from(
    { length: BLOCK_FRAMES },
    (_, n) => Math.sin((Math.PI * (n + 0.5)) / BLOCK_FRAMES) ** 2,
  );
  readonly #windowed = new Float64Array(BLOCK_FRAMES);
  readonly #own = new Float64Array(BLOCK_FRAMES / 2);
  readonly #others: { power: Float64Array; re: Float64Array; im: Float64Array }[];
  #blocks = 0;

  constructor(others: number) {
    this.#others = Array.from({ length: others }, () => ({
      power: new Float64Array(BLOCK_FRAMES / 2),
      re: new Float64Array(BLOCK_FRAMES / 2),
      im: new Float64Array(BLOCK_FRAMES / 2),
    }));
  }

  /** @param signals the one that is asked about, then the others: of each its channels, of one length */
  add(signals: readonly (readonly Float32Array[])[]): void {
    const [first = []] = signals;
    const length = first[0]?.length ?? 0;
    for (let start = 0; start + BLOCK_FRAMES <= length; start += HOP_FRAMES) {
      for (let channel = 0; channel < first.length; channel++) this.#block(signals, channel, start);
      this.#blocks++;
    }
  }

  /** Of each other signal, 0 to 1: what it shares with the first beyond what two strangers would by chance. */
  finish(): number[] {
    const total = this.#own.reduce((sum, power) => sum + power, 0);
    if (total === 0 || this.#blocks < 2) return this.#others.map(() => 0);
    const byChance = 1 / this.#blocks;
    return this.#others.map(({ power, re, im }) => {
      let shared = 0;
      for (let k = 0; k < power.length; k++) {
        const both = (this.#own[k] ?? 0) * (power[k] ?? 0);
        if (both > 0) shared += ((this.#own[k] ?? 0) * ((re[k] ?? 0) ** 2 + (im[k] ?? 0) ** 2)) / both;
      }
      return Math.max(0, (shared / total - byChance) / (1 - byChance));
    });
  }

  #block(signals: readonly (readonly Float32Array[])[], channel: number, start: number): void {
    const [own, ...others] = signals.map((signal) => this.#spectrum(signal[channel] as Float32Array, start)) as [
      Float64Array,
      ...Float64Array[],
    ];
    for (let k = 1; k < BLOCK_FRAMES / 2; k++) {
      const [ar, ai] = [own[2 * k] ?? 0, own[2 * k + 1] ?? 0];
      this.#own[k] = (this.#own[k] ?? 0) + ar * ar + ai * ai;
      others.forEach((other, i) => {
        const sums = this.#others[i] as { power: Float64Array; re: Float64Array; im: Float64Array };
        const [br, bi] = [other[2 * k] ?? 0, other[2 * k + 1] ?? 0];
        sums.power[k] = (sums.power[k] ?? 0) + br * br + bi * bi;
        sums.re[k] = (sums.re[k] ?? 0) + ar * br + ai * bi;
        sums.im[k] = (sums.im[k] ?? 0) + ai * br - ar * bi;
      });
    }
  }

  #spectrum(samples: Float32Array, start: number): Float64Array {
    const windowed = this.#windowed;
    for (let n = 0; n < BLOCK_FRAMES; n++) windowed[n] = (this.#window[n] ?? 0) * (samples[start + n] ?? 0);
    const spectrum = new Float64Array(2 * BLOCK_FRAMES);
    this.#fft.realTransform(spectrum, windowed);
    return spectrum;
  }
}
