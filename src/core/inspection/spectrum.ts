import { binPowerScale, hannTransform } from './transform';

const { log10, max, min, round } = Math;

/** Long enough for bins of some 12 Hz, whatever the rate. */
export function spectrumFrames(sampleRateHz: number): number {
  return 2 ** round(Math.log2(sampleRateHz / 12));
}

/** Width of the bands that an edge is sought between. */
const BAND_HZ = 100;
/** Bands just below an edge must all be filled, by more than those above by so much. */
const LEAST_DROP_DB = 20;
const FILLED_BANDS = 15;
/** An edge is steep: it falls within so many bands. */
const FALL_BANDS = 4;
/** Below this, what ends is a telephone or an instrument, and above it the filters of converters. */
const LEAST_EDGE_HZ = 10_000;
const GREATEST_EDGE_HZ = 20_200;
const GREATEST_EDGE_OF_RATE = 0.457;
/** Between these a single rate's filter falls, in a file at a double rate; some begin late and are wide. */
const FALL_FROM_HZ = 20_000;
const FALL_TO_HZ = 29_000;
/** By how much it has begun to fall at 25 kHz, how steeply it falls within 2 kHz, and how deep. No instrument does. */
const LEAST_BEGUN_DB = 10;
const LEAST_STEEP_DB = 25;
const LEAST_DEPTH_DB = 40;
/** Just below half the rate, filters end what there is. */
const HIGHEST_OF_RATE = 0.48;

/** Mean power spectrum of blocks of samples, in bands of 100 Hz. */
export class Spectrum {
  readonly #sampleRateHz: number;
  readonly #frames: number;
  readonly #power: Float64Array;
  #blocks = 0;

  constructor(sampleRateHz: number) {
    this.#sampleRateHz = sampleRateHz;
    this.#frames = spectrumFrames(sampleRateHz);
    this.#power = new Float64Array(this.#frames / 2);
  }

  /** @param samples as many as `spectrumFrames` has */
  add(samples: Float32Array): void {
    const complex = hannTransform(samples, this.#frames);
    const power = this.#power;
    for (let k = 1; k < power.length; k++) {
      const re = complex[2 * k] ?? 0;
      const im = complex[2 * k + 1] ?? 0;
      power[k] = (power[k] ?? 0) + re * re + im * im;
    }
    this.#blocks++;
  }

  /** Where the sound stops short, or null where it doesn't. */
  bandEdgeHz(): number | null {
    const bands = this.#bandsDb();
    const highest = bands.length - 1;
    const lastHz = min(GREATEST_EDGE_HZ, GREATEST_EDGE_OF_RATE * this.#sampleRateHz);
    // What stands above each band, at most.
    let above = Number.NEGATIVE_INFINITY;
    for (let band = highest - FALL_BANDS; band * BAND_HZ >= LEAST_EDGE_HZ; band--) {
      above = max(above, bands[band + FALL_BANDS] ?? 0);
      if (band * BAND_HZ > lastHz) continue;
      const below = min(...bands.slice(band - FILLED_BANDS, band));
      if (below - above >= LEAST_DROP_DB) return band * BAND_HZ;
    }
    return null;
  }

  /**
   * How far the sound falls between 20 and 29 kHz where it falls the way the filter of a single rate does; null where it
   * doesn't, and at rates that have no such band.
   */
  singleRateDropDb(): number | null {
    const bands = this.#bandsDb();
    if (bands.length * BAND_HZ < FALL_TO_HZ + 5000) return null;
    const mean = (fromHz: number, toHz: number) => {
      const powers = bands.slice(fromHz / BAND_HZ, toHz / BAND_HZ).map(powerOf);
      return level(powers.reduce((sum, power) => sum + power, 0) / powers.length);
    };
    const audible = mean(18_000, FALL_FROM_HZ);
    const dropDb = audible - mean(FALL_TO_HZ, bands.length * BAND_HZ);
    let steepest = 0;
    for (let hz = FALL_FROM_HZ; hz + 2500 <= FALL_TO_HZ; hz += BAND_HZ) {
      steepest = max(steepest, mean(hz - 500, hz) - mean(hz + 2000, hz + 2500));
    }
    const hasFallen = audible - mean(25_000, 26_000) >= LEAST_BEGUN_DB;
    return hasFallen && steepest >= LEAST_STEEP_DB && dropDb >= LEAST_DEPTH_DB ? dropDb : null;
  }

  /** How even it is between two frequencies: geometric over arithmetic mean, near 0.56 for white noise of one block, 1 of many. */
  flatness(fromHz: number, toHz: number): number {
    const bin = (hz: number) => round((hz * this.#frames) / this.#sampleRateHz);
    const powers = this.#power.subarray(max(1, bin(fromHz)), min(this.#power.length, bin(toHz)));
    const arithmetic = powers.reduce((sum, power) => sum + power, 0) / powers.length;
    if (!(arithmetic > 0)) return 0;
    return Math.exp(powers.reduce((sum, power) => sum + Math.log(max(power, 1e-30)), 0) / powers.length) / arithmetic;
  }

  /** Power of each 100 Hz, in dB re a full-scale square wave. */
  #bandsDb(): number[] {
    const scale = binPowerScale(this.#frames) / max(1, this.#blocks);
    const hzPerBin = this.#sampleRateHz / this.#frames;
    const bands = new Float64Array(Math.floor((HIGHEST_OF_RATE * this.#sampleRateHz) / BAND_HZ));
    for (let k = 1; k < this.#power.length; k++) {
      const band = Math.floor((k * hzPerBin) / BAND_HZ);
      if (band < bands.length) bands[band] = (bands[band] ?? 0) + (this.#power[k] ?? 0) * scale;
    }
    return Array.from(bands, level);
  }
}

function level(power: number): number {
  return 10 * log10(max(power, 1e-30));
}

function powerOf(db: number): number {
  return 10 ** (db / 10);
}
