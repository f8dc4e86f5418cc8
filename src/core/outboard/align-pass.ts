import { type Delay, delayOf } from '../lineup/null/delay';

/** What was sent through outboard gear and what came back, counted by one clock. What lies ahead of either or behind it is 0. */
export interface PassSource {
  /** Planar samples from a frame on. */
  sent(startFrame: number, frames: number): Promise<Float32Array[]>;
  returned(startFrame: number, frames: number): Promise<Float32Array[]>;
}

export interface AlignOptions {
  sampleRateHz: number;
  /** Of what was sent. */
  frames: number;
  /** What comes back later than this is not looked for. */
  mostDelaySeconds: number;
  signal?: AbortSignal | undefined;
}

/** How what came back lies to what was sent. */
export interface Alignment {
  /** By how many frames it is later. */
  delayFrames: number;
  /** What of it is what was sent, 0 to 1: the median of all places that were looked at. */
  likeness: number;
  /** It came back upside down. */
  isInverted: boolean;
  /** Of the places that were looked at, where that delay holds. */
  heldPlaces: number;
  places: number;
  /** Where it came at another time than before: between which frames of what was sent, and by how many frames later. */
  shifts: { startFrame: number; endFrame: number; byFrames: number }[];
  /** By how many parts of a million what came back is longer than what was sent, where that explains the shifts; else null. */
  driftPpm: number | null;
}

/** The delay is looked for first at so few places, each of so long a stretch of what was sent as the delay may be, or longer. */
const COARSE_PLACES = 5;
/** Then at so many places over the whole, each of so many frames. */
const FINE_PLACES = 64;
const FINE_FRAMES = 2 ** 15;
const LEAST_FRAMES = 2 ** 10;
/** A place where less of what came back is what was sent tells nothing. */
const LEAST_LIKENESS = 0.3;
/** A place where so much of what came back is what was sent leaves no doubt. */
const SURE = 0.6;
/** A place this much quieter than the loudest tells nothing. */
const QUIET = 10 ** (-50 / 10);
/** What gear does to low and high differently moves the delay by less; what drops out moves it by more, mostly. */
const SAME_SECONDS = 0.0005;
/** A drift is one only if no place is farther from it. */
const LEAST_DRIFT_PLACES = 6;

interface FoundPlace extends Delay {
  frame: number;
}

/**
 * Finds when what was sent through outboard gear came back: nearly, from long stretches; then to the frame, from many short ones, of which
 * the change from frame to frame is taken, so that the low end, where gear turns phases most, does not rule.
 *
 * @returns null where nothing of what was sent was found in what came back
 */
export async function alignPass(source: PassSource, options: AlignOptions): Promise<Alignment | null> {
  const { sampleRateHz, frames } = options;
  // Clocks that differ smear the changes of a long stretch, but not the whole of its sound.
  const coarse = (await nearlyAt(source, options, changes)) ?? (await nearlyAt(source, options, (samples) => samples));
  if (!coarse) return null;
  const fineFrames = Math.max(LEAST_FRAMES, 2 ** Math.floor(Math.log2(Math.min(FINE_FRAMES, frames))));
  const fine = await lookAt(source, options, {
    frames: fineFrames,
    places: FINE_PLACES,
    offsetFrames: coarse.frames,
    sentFrames: fineFrames,
    of: changes,
    mostFrames: fineFrames / 2,
  });
  const same = Math.max(2, Math.round(SAME_SECONDS * sampleRateHz));
  const places = fine
    .filter(({ likeness }) => Math.abs(likeness) >= LEAST_LIKENESS)
    .map((place) => ({ ...place, frames: place.frames + coarse.frames }));
  const shifts = shiftsOf(places, fineFrames, same);
  const driftPpm = shifts.length === 0 ? null : driftOf(places, same);
  if (driftPpm === null && !isBorneOut(places, fine.length, same)) return null;
  // What was lost on the way moves what follows it: the gear's own delay is that of the beginning.
  const untilShift = driftPpm === null ? (shifts[0]?.endFrame ?? Number.POSITIVE_INFINITY) : Number.POSITIVE_INFINITY;
  const telling = places.filter(({ frame }) => frame + fineFrames < untilShift);
  const delayFrames = mostCommon(telling.map((place) => place.frames));
  const isHeld = (place: Delay) => Math.abs(place.frames - delayFrames) <= same;
  const likenesses = fine.map(({ likeness }) => Math.abs(likeness)).sort((a, b) => a - b);
  const signs = places.reduce((sum, { likeness }) => sum + Math.sign(likeness), 0);
  return {
    delayFrames,
    likeness: likenesses[Math.floor(likenesses.length / 2)] ?? 0,
    isInverted: signs < 0,
    heldPlaces: places.filter(isHeld).length,
    places: fine.length,
    shifts,
    driftPpm,
  };
}

/** The delay at the place that tells it best; undefined where none does. */
async function nearlyAt(
  source: PassSource,
  options: AlignOptions,
  of: (samples: Float32Array) => Float32Array,
): Promise<FoundPlace | undefined> {
  const mostFrames = Math.ceil(options.mostDelaySeconds * options.sampleRateHz);
  const frames = 2 ** Math.ceil(Math.log2(2 * mostFrames));
  const sentFrames = frames / 2;
  const found = await lookAt(source, options, {
    frames,
    places: COARSE_PLACES,
    offsetFrames: 0,
    sentFrames,
    of,
    mostFrames,
    enough: SURE,
  });
  const [best] = found.sort((a, b) => Math.abs(b.likeness) - Math.abs(a.likeness));
  return best && Math.abs(best.likeness) >= LEAST_LIKENESS ? best : undefined;
}

/** Delays at places evenly over the whole, but for those that are too quiet. */
async function lookAt(
  source: PassSource,
  { frames: whole, signal }: AlignOptions,
  look: {
    frames: number;
    places: number;
    /** By how much what came back is looked at later. */
    offsetFrames: number;
    /** Of what was sent, only so many are looked at. */
    sentFrames: number;
    /** What of the sound is looked at. */
    of: (samples: Float32Array) => Float32Array;
    mostFrames: number;
    /** No other place is looked at once one is so sure. */
    enough?: number;
  },
): Promise<FoundPlace[]> {
  const { frames, offsetFrames, sentFrames, of, mostFrames, enough = Number.POSITIVE_INFINITY } = look;
  const count = Math.max(1, Math.min(look.places, Math.floor(whole / sentFrames)));
  const found: (FoundPlace & { power: number })[] = [];
  for (let i = 0; i < count; i++) {
    signal?.throwIfAborted();
    const frame = Math.max(0, Math.round(((i + 0.5) * whole) / count - sentFrames / 2));
    const sent = await source.sent(frame, frames);
    for (const samples of sent) samples.fill(0, sentFrames);
    const power = sent.reduce((sum, samples) => sum + energyOf(samples), 0);
    if (power === 0) continue;
    const returned = await source.returned(frame + offsetFrames, frames);
    const delay = delayOf(returned.map(of), sent.map(of), mostFrames);
    found.push({ frame, power, ...delay });
    if (Math.abs(delay.likeness) > enough) break;
  }
  const loudest = Math.max(0, ...found.map(({ power }) => power));
  return found.filter(({ power }) => power >= QUIET * loudest);
}

/** Whether delays are more than chance: half of all places say what one beside them says. */
function isBorneOut(places: readonly FoundPlace[], looked: number, same: number): boolean {
  const says = (i: number, other: number) =>
    Math.abs((places[i]?.frames ?? 0) - (places[other]?.frames ?? Number.NaN)) <= same;
  if (looked <= 2) return places.length > 0 && places.every(({ likeness }) => Math.abs(likeness) >= SURE);
  return places.filter((_, i) => says(i, i - 1) || says(i, i + 1)).length >= looked / 2;
}

/** Places from which on what came back is at another time than before. */
function shiftsOf(places: readonly FoundPlace[], fineFrames: number, same: number): Alignment['shifts'] {
  const shifts: Alignment['shifts'] = [];
  let [held, heldAt] = [places[0]?.frames ?? 0, places[0]?.frame ?? 0];
  for (const { frame, frames } of places) {
    const byFrames = frames - held;
    if (Math.abs(byFrames) > same) {
      shifts.push({ startFrame: heldAt, endFrame: frame + fineFrames, byFrames });
      held = frames;
    }
    heldAt = frame;
  }
  return shifts;
}

/** The slope of a straight line through the delays, where all lie on it. */
function driftOf(places: readonly FoundPlace[], same: number): number | null {
  if (places.length < LEAST_DRIFT_PLACES) return null;
  const mean = (values: readonly number[]) => values.reduce((sum, x) => sum + x, 0) / values.length;
  const [atMean, delayMean] = [mean(places.map(({ frame }) => frame)), mean(places.map(({ frames }) => frames))];
  const spread = mean(places.map(({ frame }) => (frame - atMean) ** 2));
  if (spread === 0) return null;
  const slope = mean(places.map(({ frame, frames }) => (frame - atMean) * (frames - delayMean))) / spread;
  const isLine = places.every(({ frame, frames }) => Math.abs(frames - delayMean - slope * (frame - atMean)) <= same);
  return isLine ? slope * 1e6 : null;
}

function mostCommon(values: readonly number[]): number {
  const counts = new Map<number, number>();
  for (const value of values) counts.set(value, (counts.get(value) ?? 0) + 1);
  return [...counts].reduce((best, own) => (own[1] > best[1] ? own : best), [0, 0])[0];
}

function changes(samples: Float32Array): Float32Array {
  return samples.map((x, n) => x - (samples[n - 1] ?? x));
}

function energyOf(samples: Float32Array): number {
  return samples.reduce((sum, x) => sum + x * x, 0);
}
