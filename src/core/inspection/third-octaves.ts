import { powerToDb } from '../units/decibel';
import { binPowerScale, hannTransform } from './transform';

/**
 * Frequency bands of a third of an octave: IEC 61260-1:2014, base ten, as read from memory. The exact centre is 1000 · 10^(n/10) Hz, the
 * edges are a twentieth of a decade to either side, and bands are called by their nominal centre.
 */
const NOMINAL_HZ = [
  20, 25, 31.5, 40, 50, 63, 80, 100, 125, 160, 200, 250, 315, 400, 500, 630, 800, 1000, 1250, 1600, 2000, 2500, 3150,
  4000, 5000, 6300, 8000, 10_000, 12_500, 16_000, 20_000,
];
/** 1 kHz stands here among them. */
const REFERENCE = 17;
const REFERENCE_HZ = 1000;
export interface Band {
  nominalHz: number;
  lowHz: number;
  highHz: number;
}

/** The bands of a third of an octave from 20 Hz to 20 kHz that a sample rate holds in full. */
export function thirdOctaves(sampleRateHz: number): Band[] {
  return NOMINAL_HZ.map((nominalHz, i) => ({
    nominalHz,
    lowHz: REFERENCE_HZ * 10 ** ((i - REFERENCE - 0.5) / 10),
    highHz: REFERENCE_HZ * 10 ** ((i - REFERENCE + 0.5) / 10),
  })).filter(({ highHz }) => 2 * highHz <= sampleRateHz);
}

/** Long enough for bins of 3 Hz, which tell the lowest bands apart, whatever the rate. */
export function bandBlockFrames(sampleRateHz: number): number {
  return 2 ** Math.round(Math.log2(sampleRateHz / 3));
}

/** Levels in dB re full scale squared: a full-scale sine in one channel has −3.01. */
export interface BandLevels {
  /** Of what is below the lowest band. */
  belowDbfs: number;
  bandsDbfs: Float64Array;
}

/** Mean squares of two channels in each band, and the mean of their product. */
export interface BandPair {
  left: Float64Array;
  right: Float64Array;
  product: Float64Array;
}

/** What was found in blocks of a stretch of a prepared programme, each of `blockFrames`. */
export interface BandReport {
  sampleRateHz: number;
  blockFrames: number;
  /** All of the stretch was read; else blocks spread evenly over it. */
  isWhole: boolean;
  /** First frame of each block; none where the programme is shorter than one. */
  startFrames: Float64Array;
  /** Nominal centre of each band. */
  bandsHz: number[];
  /** Ahead of the gain, and behind everything, all channels together. */
  before: BandLevels;
  after: BandLevels;
  /** Of two channels behind everything, for each block: −1 to 1, NaN where one is silent; else empty. */
  correlation: Float32Array;
  /** Of two channels behind everything but a gain that is alike for all, by band; else null. */
  pair: BandPair | null;
}

/** Neighbouring bins, and of each the share that lies within a band. */
interface Bins {
  first: number;
  shares: Float64Array;
}

/** Adds up, over blocks of a programme, what each third of an octave holds. */
export class BandSums {
  readonly #frames: number;
  /** The bins of what is below the lowest band, and of each band. */
  readonly #bins: Bins[];
  /** Mean squares by channel and band. */
  readonly #powers: Float64Array[];
  /** Of two channels, the means of their product. */
  readonly #products: Float64Array | null;
  #blocks = 0;

  constructor(sampleRateHz: number, channels: number) {
    this.#frames = bandBlockFrames(sampleRateHz);
    const bands = thirdOctaves(sampleRateHz);
    const hzPerBin = sampleRateHz / this.#frames;
    const lowestHz = bands[0]?.lowHz ?? 0;
    this.#bins = [{ lowHz: hzPerBin / 2, highHz: lowestHz }, ...bands].map((band) => binsOf(band, hzPerBin));
    const none = () => new Float64Array(this.#bins.length);
    this.#powers = Array.from({ length: channels }, none);
    this.#products = channels === 2 ? none() : null;
  }

  /** @param planar each channel's samples, as many as `bandBlockFrames` has */
  add(planar: readonly Float32Array[]): void {
    const spectra = planar.map((samples) => hannTransform(samples, this.#frames).slice(0, this.#frames));
    spectra.forEach((spectrum, channel) => {
      this.#addTo(this.#powers[channel] as Float64Array, spectrum, spectrum);
    });
    const [left, right] = spectra;
    if (this.#products && left && right) this.#addTo(this.#products, left, right);
    this.#blocks++;
  }

  #addTo(sums: Float64Array, a: Float64Array, b: Float64Array): void {
    const scale = binPowerScale(this.#frames);
    this.#bins.forEach((bins, band) => {
      sums[band] = (sums[band] as number) + scale * productOf(a, b, bins);
    });
  }

  /** Of all channels together, over all blocks. */
  levelsDbfs(): BandLevels {
    const [below = 0, ...bands] = this.#bins.map((_, band) =>
      this.#powers.reduce((sum, powers) => sum + (powers[band] as number), 0),
    );
    const level = (sum: number) => Math.max(FLOOR_DBFS, powerToDb(sum / Math.max(1, this.#blocks)) ?? FLOOR_DBFS);
    return { belowDbfs: level(below), bandsDbfs: Float64Array.from(bands, level) };
  }

  /** Of a programme of two channels; null of others. */
  pair(): BandPair | null {
    const [left, right] = this.#powers;
    if (!this.#products || !left || !right) return null;
    const mean = (sums: Float64Array) => sums.subarray(1).map((sum) => sum / Math.max(1, this.#blocks));
    return { left: mean(left), right: mean(right), product: mean(this.#products) };
  }
}

/** What a band shows that holds nothing. */
const FLOOR_DBFS = -200;

function binsOf({ lowHz, highHz }: { lowHz: number; highHz: number }, hzPerBin: number): Bins {
  const first = Math.max(1, Math.round(lowHz / hzPerBin));
  const shares: number[] = [];
  for (let bin = first; (bin - 0.5) * hzPerBin < highHz; bin++) {
    const within = Math.min(highHz, (bin + 0.5) * hzPerBin) - Math.max(lowHz, (bin - 0.5) * hzPerBin);
    shares.push(Math.max(0, within / hzPerBin));
  }
  return { first, shares: Float64Array.from(shares) };
}

/** Real part of one spectrum times the other's conjugate, summed over some bins. */
function productOf(a: Float64Array, b: Float64Array, { first, shares }: Bins): number {
  let sum = 0;
  for (let i = 0; i < shares.length; i++) {
    const at = 2 * (first + i);
    const re = (a[at] as number) * (b[at] as number);
    const im = (a[at + 1] as number) * (b[at + 1] as number);
    sum += (shares[i] as number) * (re + im);
  }
  return sum;
}

/** A quarter of a block further, squared Hann windows add up to the same everywhere: no hit of a drum counts more than another. */
const OVERLAP = 4;

/**
 * First frames of blocks that cover a stretch, each a quarter behind the last; where those would be more than `most`, so many that are spread
 * evenly. A stretch shorter than a block has one around it. Empty where the whole programme is shorter.
 */
export function blockPlaces(
  { startFrame, endFrame }: { startFrame: number; endFrame: number },
  programmeFrames: number,
  blockFrames: number,
  most: number,
): { places: number[]; isWhole: boolean } {
  if (programmeFrames < blockFrames) return { places: [], isWhole: false };
  const last = Math.max(startFrame, endFrame - blockFrames);
  const hop = blockFrames / OVERLAP;
  const covering = Math.ceil((last - startFrame) / hop) + 1;
  const count = Math.min(covering, most);
  const middle = Math.round((startFrame + endFrame - blockFrames) / 2);
  const within = (frame: number) => Math.min(programmeFrames - blockFrames, Math.max(0, frame));
  const places = Array.from({ length: count }, (_, i) =>
    within(count === 1 ? middle : Math.round(startFrame + (i * (last - startFrame)) / (count - 1))),
  );
  return { places, isWhole: covering <= most };
}
