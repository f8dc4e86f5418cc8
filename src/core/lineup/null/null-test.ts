import { type Level, powerToDb } from '../../units/decibel';
import { delayOf } from './delay';
import { diagnose, type Fault } from './diagnose';
import { binFramesOf, binsOf, type NullSource, type Place, residualOf } from './null-source';
import { bestGains, energyOf, explained, leftOver, Products } from './products';
import { type BandPicture, ResidualBands } from './residual-bands';

/** What one stem is to the mix. */
interface StemReading {
  name: string;
  /** By how much louder it is in the mix than by itself; null where it is silent, or is not in the mix. */
  gainDb: number | null;
  /** By how many frames it comes later in the mix than in its file. */
  delayFrames: number;
  /** It is in the mix upside down. */
  isInverted: boolean;
}

/** How a mix compares with the sum of its stems. */
export interface NullReading {
  nulls: boolean;
  /** RMS of the mix less the sum of its stems as they are, over the whole, and of its loudest 100 ms. */
  residualDb: Level;
  greatestResidualDb: Level;
  /** RMS of the mix. */
  mixDb: Level;
  toleranceDb: number;
  stems: StemReading[];
  /** Where something is left. */
  places: (Place & { residualDb: Level })[];
  faults: Fault[];
  bands: BandPicture;
}

export interface NullOptions {
  sampleRateHz: number;
  channels: number;
  /** RMS of 100 ms of what may be left, in dBFS: rounding of the files' depths lies below. */
  toleranceDb: number;
  signal?: AbortSignal | undefined;
  /** Called with 0 to 1. */
  onProgress?: ((fraction: number) => void) | undefined;
}

/** Places that lie nearer than this are one. */
const JOINED_BINS = 5;
/** A delay is looked for in so much of the programme, and no farther than half of that. */
const DELAY_SECONDS = 2.7;
const LEAST_DELAY_FRAMES = 2 ** 12;
/** With all others taken off, so much of what is left of a mix must be one stem for that to be looked for at another time. */
const ALIKE = 0.9;
/** A stem at another time is believed only if that explains so much more than gains do: 10 dB. */
const EXPLAINS = 0.1;

/**
 * Compares a mix with the sum of its stems: what is left, where, and what it looks like. Sources stream by once, and once more where
 * stems are found at another time; what is kept is some numbers for every 100 ms.
 */
export async function nullTest(
  mix: NullSource,
  stems: readonly NullSource[],
  options: NullOptions,
): Promise<NullReading> {
  const test = new NullTest(mix, stems, options);
  return test.run();
}

class NullTest {
  readonly #mix: NullSource;
  readonly #stems: readonly NullSource[];
  readonly #options: NullOptions;
  readonly #binFrames: number;
  readonly #frames: number;

  constructor(mix: NullSource, stems: readonly NullSource[], options: NullOptions) {
    this.#mix = mix;
    this.#stems = stems;
    this.#options = options;
    this.#binFrames = binFramesOf(options.sampleRateHz);
    this.#frames = Math.max(mix.frames, ...stems.map(({ frames }) => frames));
  }

  async run(): Promise<NullReading> {
    const { toleranceDb } = this.#options;
    const none = this.#stems.map(() => 0);
    const bands = new ResidualBands({ ...this.#options, frames: this.#frames });
    const plain = await this.#products(none, bands);
    const all = plain.sum(allBins(plain));
    const places = this.#places(plain);
    const delays = places.length === 0 ? none : await this.#delays(plain, places);
    const moved = delays.some((frames) => frames !== 0) ? await this.#products(delays) : plain;
    const faults =
      places.length === 0
        ? []
        : await diagnose({
            sources: { mix: this.#mix, stems: this.#stems },
            products: { plain, moved },
            delays,
            places,
            ...this.#options,
          });
    const sumWeights = [...this.#stems.map(() => -1), 1];
    const mixWeights = [...none, 1];
    return {
      nulls: places.length === 0,
      residualDb: this.#rmsDb(energyOf(all, sumWeights), this.#frames),
      greatestResidualDb: this.#rmsDb(Math.max(0, ...this.#residuals(plain)), this.#binFrames),
      mixDb: this.#rmsDb(energyOf(all, mixWeights), this.#frames),
      toleranceDb,
      stems: this.#readings(moved, delays, places),
      places: places.map((place) => ({
        ...place,
        residualDb: this.#rmsDb(
          energyOf(plain.sum(binsOf(place, this.#binFrames)), sumWeights),
          place.endFrame - place.startFrame,
        ),
      })),
      faults,
      bands: bands.finish(),
    };
  }

  /** Products of all stems, each as much later as is said, and the mix, last. */
  async #products(delays: readonly number[], bands?: ResidualBands): Promise<Products> {
    const products = new Products(this.#stems.length + 1);
    for (let start = 0; start < this.#frames; start += this.#binFrames) {
      this.#options.signal?.throwIfAborted();
      const block = await Promise.all([
        ...this.#stems.map((stem, i) => stem.read(start - (delays[i] as number), this.#binFrames)),
        this.#mix.read(start, this.#binFrames),
      ]);
      products.add(block);
      bands?.add(residualOf(block));
      this.#options.onProgress?.(Math.min(1, (start + this.#binFrames) / this.#frames));
    }
    return products;
  }

  #residuals(products: Products): number[] {
    const weights = [...this.#stems.map(() => -1), 1];
    return Array.from({ length: products.bins }, (_, bin) => energyOf(products.sum([bin]), weights));
  }

  /** Where more is left than may be. */
  #places(products: Products): Place[] {
    const most = 10 ** (this.#options.toleranceDb / 10) * this.#binFrames * this.#options.channels;
    const places: Place[] = [];
    this.#residuals(products).forEach((energy, bin) => {
      if (energy <= most) return;
      const last = places.at(-1);
      const [startFrame, endFrame] = [bin * this.#binFrames, Math.min(this.#frames, (bin + 1) * this.#binFrames)];
      if (last && startFrame - last.endFrame < JOINED_BINS * this.#binFrames) last.endFrame = endFrame;
      else places.push({ startFrame, endFrame });
    });
    return places;
  }

  /** By how much each stem comes later in the mix; 0 where its own place explains what is left as well. */
  async #delays(plain: Products, places: readonly Place[]): Promise<number[]> {
    const none = this.#stems.map(() => 0);
    const bins = places.flatMap((place) => binsOf(place, this.#binFrames));
    if (explained(plain, bins, this.#least(bins))) return none;
    const [byOthers, byMix] = [[...none], [...none]];
    for (const [i] of this.#stems.entries()) {
      const { besideOthers, inMix } = await this.#delayOf(i, plain, bins);
      byOthers[i] = Math.abs(besideOthers.likeness) >= ALIKE ? besideOthers.frames : 0;
      byMix[i] = inMix.frames;
    }
    for (const delays of [byOthers, byMix]) {
      if (delays.every((frames) => frames === 0)) continue;
      const moved = await this.#products(delays);
      const isExplained = places.some((place) => {
        const own = binsOf(place, this.#binFrames);
        return leftOver(moved, own) < EXPLAINS * leftOver(plain, own);
      });
      if (isExplained) return delays;
    }
    return none;
  }

  #least(bins: readonly number[]): number {
    return 10 ** (this.#options.toleranceDb / 10) * bins.length * this.#binFrames * this.#options.channels;
  }

  /** Looks for one stem where it is loudest among the places: in what the others leave of the mix, and in the mix itself. */
  async #delayOf(stem: number, plain: Products, bins: readonly number[]) {
    const loudest = bins.reduce((best, bin) => (plain.of(bin, stem, stem) > plain.of(best, stem, stem) ? bin : best));
    const length = Math.max(
      LEAST_DELAY_FRAMES,
      2 **
        Math.min(
          Math.round(Math.log2(DELAY_SECONDS * this.#options.sampleRateHz)),
          Math.floor(Math.log2(Math.max(1, this.#frames))),
        ),
    );
    const start = Math.max(
      0,
      Math.min(this.#frames - length, Math.round((loudest + 0.5) * this.#binFrames - length / 2)),
    );
    const signals = await Promise.all([...this.#stems, this.#mix].map((source) => source.read(start, length)));
    const own = signals[stem] as Float32Array[];
    const mix = signals.at(-1) as Float32Array[];
    const others = mix.map((samples, c) =>
      samples.map((x, n) =>
        this.#stems.reduce((left, _, i) => (i === stem ? left : left - (signals[i]?.[c]?.[n] as number)), x),
      ),
    );
    const reach = length / 2;
    return { besideOthers: delayOf(others, own, reach), inMix: delayOf(mix, own, reach) };
  }

  #readings(products: Products, delays: readonly number[], places: readonly Place[]): StemReading[] {
    const bins = this.#telling(products, places);
    const gains = places.length === 0 ? this.#stems.map(() => 1) : bestGains(products.sum(bins));
    return this.#stems.map(({ name }, i) => {
      const gain = gains[i] ?? null;
      return {
        name,
        gainDb: gain === null ? null : powerToDb(gain * gain),
        delayFrames: delays[i] as number,
        isInverted: (gain ?? 1) < 0,
      };
    });
  }

  /** The 100 ms that tell the stems' gains: all of them, or all but the places where gains do not explain what is left. */
  #telling(products: Products, places: readonly Place[]): number[] {
    const unexplained = new Set(
      places
        .map((place) => binsOf(place, this.#binFrames))
        .filter((bins) => !explained(products, bins, this.#least(bins)))
        .flat(),
    );
    const telling = allBins(products).filter((bin) => !unexplained.has(bin));
    return telling.length > 0 ? telling : allBins(products);
  }

  #rmsDb(energy: number, frames: number): Level {
    return frames === 0 ? null : powerToDb(energy / (frames * this.#options.channels));
  }
}

function allBins(products: Products): number[] {
  return Array.from({ length: products.bins }, (_, bin) => bin);
}
