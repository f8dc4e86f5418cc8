import { powerToDb } from '../../units/decibel';
import { Coherence } from './coherence';
import { binFramesOf, binsOf, type NullSource, type Place, residualOf } from './null-source';
import { bestGains, explained, type Products } from './products';

/** What is wrong with stems that do not add up to their mix, as far as what is left tells. */
export type Fault = Place &
  (
    | { kind: 'muted'; stem: number }
    | { kind: 'absent'; stem: number }
    | { kind: 'soloed'; stem: number }
    | { kind: 'twice'; stem: number; twin: number }
    | { kind: 'shifted'; stem: number; delayFrames: number }
    | { kind: 'inverted'; stem: number }
    | { kind: 'gain'; stem: number; gainDb: number }
    | { kind: 'processed'; stem: number }
    | { kind: 'missing' }
  );

interface Suspects {
  sources: { mix: NullSource; stems: readonly NullSource[] };
  /** With every stem where it is, and with each as much later as `delays` says. */
  products: { plain: Products; moved: Products };
  delays: readonly number[];
  places: readonly Place[];
  sampleRateHz: number;
  channels: number;
  toleranceDb: number;
}

/** A gain nearer to 1 than this is none (0.04 dB), one nearer to 0 than that is of a stem that is not there (−34 dB). */
const UNITY = 0.005;
const NOTHING = 0.02;
/** Two stems that are this much alike are one, twice. */
const TWINS = 1 - 1e-6;
/** RMS below which a stem is silent, and the share of a place that it is silent in where it was muted. */
const SILENT_DBFS = -120;
const MUTED_SHARE = 0.8;
/** What is left shares this much with a stem that was processed; a stranger shares next to nothing. */
const COHERENT = 0.25;
/** So many frames of a place are enough to tell. */
const MOST_FRAMES = 2 ** 20;

/** Says of every place what it looks like; what is said of neighbours alike is said once. */
export async function diagnose(suspects: Suspects): Promise<Fault[]> {
  const twins = twinsOf(suspects.products.plain);
  const faults: Fault[] = [];
  for (const place of suspects.places) {
    for (const fault of await faultsAt(suspects, place, twins)) {
      const same = faults.find((other) => isSame(other, fault));
      if (same) same.endFrame = fault.endFrame;
      else faults.push(fault);
    }
  }
  return faults;
}

async function faultsAt(suspects: Suspects, place: Place, twins: ReadonlyMap<number, number>): Promise<Fault[]> {
  const { products, delays, sampleRateHz, channels, toleranceDb, sources } = suspects;
  const bins = binsOf(place, binFramesOf(sampleRateHz));
  const least = 10 ** (toleranceDb / 10) * bins.length * binFramesOf(sampleRateHz) * channels;
  const { startFrame, endFrame } = place;
  const at = { startFrame, endFrame };
  const twice = [...twins]
    .filter(([stem]) => !isSilent(products.plain, stem, bins, suspects))
    .map(([stem, twin]): Fault => ({ ...at, kind: 'twice', stem, twin }));
  const shifted = delays.flatMap((delayFrames, stem): Fault[] =>
    delayFrames === 0 ? [] : [{ ...at, kind: 'shifted', stem, delayFrames }],
  );
  const moved = explained(products.moved, bins, least);
  if (!moved) {
    const silent = sources.stems.flatMap((_, stem) => (isMuted(products.plain, stem, bins, suspects) ? [stem] : []));
    if (silent.length === 1) return [...twice, ...shifted, { ...at, kind: 'muted', stem: silent[0] as number }];
    const shares = await sharesOf(suspects, place);
    if (silent.length > 1) {
      // Of several that are silent, nothing tells them apart: the one that is silent for nothing but this place.
      return [...twice, ...shifted, { ...at, kind: 'muted', stem: nearest(silent, suspects, bins) }];
    }
    const stem = shares.indexOf(Math.max(...shares));
    const isProcessed = (shares[stem] ?? 0) >= COHERENT;
    return [...twice, ...shifted, isProcessed ? { ...at, kind: 'processed', stem } : { ...at, kind: 'missing' }];
  }
  const sums = products.moved.sum(bins);
  const gains = bestGains(sums);
  const audible = gains.flatMap((gain, stem) =>
    gain === null || isSilent(products.moved, stem, bins, suspects) ? [] : [{ gain, stem }],
  );
  const present = audible.filter(({ gain }) => Math.abs(gain) > NOTHING);
  const [only] = present;
  if (only && present.length === 1 && audible.length > 2) return [{ ...at, kind: 'soloed', stem: only.stem }];
  return [...twice, ...shifted, ...audible.flatMap(({ gain, stem }) => gainFault(gain, stem, at, sums, least))];
}

function gainFault(
  gain: number,
  stem: number,
  at: Place,
  sums: readonly (readonly number[])[],
  least: number,
): Fault[] {
  // A gain that leaves no more than may be left is none.
  const energy = sums[stem]?.[stem] ?? 0;
  if (Math.abs(gain - 1) < UNITY || (gain - 1) ** 2 * energy <= least) return [];
  if (Math.abs(gain) <= NOTHING) return [{ ...at, kind: 'absent', stem }];
  const gainDb = powerToDb(gain * gain) as number;
  const changed: Fault[] = Math.abs(Math.abs(gain) - 1) < UNITY ? [] : [{ ...at, kind: 'gain', stem, gainDb }];
  return gain < 0 ? [{ ...at, kind: 'inverted', stem }, ...changed] : changed;
}

/** Stems that hold the same as one before them, by that. */
function twinsOf(products: Products): ReadonlyMap<number, number> {
  const sums = products.sum(Array.from({ length: products.bins }, (_, bin) => bin));
  const twins = new Map<number, number>();
  for (let stem = 1; stem < sums.length - 1; stem++) {
    for (let other = 0; other < stem && !twins.has(stem); other++) {
      const [own, its, both] = [sums[stem]?.[stem] ?? 0, sums[other]?.[other] ?? 0, sums[stem]?.[other] ?? 0];
      if (own > 0 && its > 0 && both > 0 && both ** 2 >= TWINS * own * its && Math.abs(own / its - 1) < UNITY) {
        twins.set(stem, other);
      }
    }
  }
  return twins;
}

type Scale = Pick<Suspects, 'sampleRateHz' | 'channels'>;

function silentEnergy({ sampleRateHz, channels }: Scale): number {
  return 10 ** (SILENT_DBFS / 10) * binFramesOf(sampleRateHz) * channels;
}

function isSilent(products: Products, stem: number, bins: readonly number[], scale: Scale): boolean {
  const most = silentEnergy(scale);
  return bins.every((bin) => products.of(bin, stem, stem) <= most);
}

/** Silent for most of a place, though not for all of its length. */
function isMuted(products: Products, stem: number, bins: readonly number[], scale: Scale): boolean {
  const most = silentEnergy(scale);
  const silent = bins.filter((bin) => products.of(bin, stem, stem) <= most).length;
  if (silent < MUTED_SHARE * bins.length) return false;
  for (let bin = 0; bin < products.bins; bin++) if (products.of(bin, stem, stem) > most) return true;
  return false;
}

/** Of several stems that are silent in a place, the one that sounds nearest to it. */
function nearest(
  stems: readonly number[],
  { products: { plain }, ...scale }: Suspects,
  bins: readonly number[],
): number {
  const most = silentEnergy(scale);
  const [first = 0, last = 0] = [bins[0], bins.at(-1)];
  const away = (stem: number) => {
    for (let distance = 1; distance < plain.bins; distance++) {
      if (plain.of(first - distance, stem, stem) > most || plain.of(last + distance, stem, stem) > most)
        return distance;
    }
    return plain.bins;
  };
  return stems.reduce((best, stem) => (away(stem) < away(best) ? stem : best));
}

/** How much of what is left is shared with each stem. */
async function sharesOf({ sources, delays }: Suspects, { startFrame, endFrame }: Place): Promise<number[]> {
  const frames = Math.min(MOST_FRAMES, endFrame - startFrame);
  const block = await Promise.all([
    ...sources.stems.map((stem, i) => stem.read(startFrame - (delays[i] as number), frames)),
    sources.mix.read(startFrame, frames),
  ]);
  const coherence = new Coherence(sources.stems.length);
  coherence.add([residualOf(block), ...block.slice(0, -1)]);
  return coherence.finish();
}

/** Two faults that are one: of one kind, of one stem, by as much. */
function isSame(a: Fault, b: Fault): boolean {
  const { startFrame: _a, endFrame: _b, ...left } = a;
  const { startFrame: _c, endFrame: _d, ...right } = b;
  if (left.kind === 'gain' && right.kind === 'gain')
    return left.stem === right.stem && Math.abs(left.gainDb - right.gainDb) < 0.1;
  return JSON.stringify(left) === JSON.stringify(right);
}
