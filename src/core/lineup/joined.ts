import { readPower, type SpanReading } from '../loudness/span';
import { fadedPower } from '../treatment/forecast';
import type { FadeShape } from '../treatment/steps/fade';
import { addGain, dbToAmplitude, dbToPower, type Level } from '../units/decibel';
import { BINS_PER_SECOND, gridFrame } from '../units/frames';
import { playOrder } from './order';

/** How one programme passes into the next where they overlap: their powers add up to what each has alone. */
export const CROSSFADE: FadeShape = 'equal-power';

/** One programme of a whole, as it was measured. */
export interface JoinedPart {
  /** Weighted mean square of every complete 100 ms. */
  weightedPower: ArrayLike<number>;
  truePeakDbtp: Level;
  sampleRateHz: number;
  frames: number;
  /** What it is turned by; 0 unless it is stated. */
  gainDb?: number;
  /** Silence until the next programme begins; negative where that begins before this one has ended. */
  gapSeconds?: number;
}

/** One programme within the whole. */
export interface JoinedTrack {
  startSeconds: number;
  durationSeconds: number;
  integratedLufs: Level;
  /** How much louder it is than the whole. */
  fromWholeLu: number | null;
  truePeakDbtp: Level;
}

export interface JoinedReading extends SpanReading {
  durationSeconds: number;
  tracks: JoinedTrack[];
  /** Index of the loudest; null where none has a loudness. */
  loudest: number | null;
}

/**
 * Reads programmes played in order, gaps and crossfades included, as one: without touching their audio. Each 100 ms of the whole is
 * made of the parts of 100 ms that fall into it, as if sound were even within them. Integrated loudness is good to 0.02 LU where the
 * whole is minutes long, and to 0.05 LU for seconds, where a single block at the gate counts. A loudness range is as good as its
 * percentiles allow: of two programmes of seconds, far apart in level, it can be more than 0.5 LU off. The true peak is the greatest of
 * all programmes by themselves; what two of them add up to in an overlap is not in it.
 *
 * @throws {RangeError} where an overlap is longer than a programme has room for
 */
export function readJoined(parts: readonly JoinedPart[]): JoinedReading {
  const lengths = parts.map(({ frames, sampleRateHz }) => frames / sampleRateHz);
  const { starts, end: durationSeconds } = playOrder(
    lengths,
    parts.map(({ gapSeconds = 0 }) => gapSeconds),
  );
  const power = new Float64Array(Math.floor(durationSeconds * BINS_PER_SECOND + EDGE_TOLERANCE));
  parts.forEach((part, i) => {
    const overlap = (at: number) => Math.max(0, -(parts[at]?.gapSeconds ?? 0));
    const fades = { in: i === 0 ? 0 : overlap(i - 1), out: i === parts.length - 1 ? 0 : overlap(i) };
    addPart(power, part, starts[i] as number, fades);
  });
  const tracks = parts.map((part, i) => trackOf(part, starts[i] as number));
  const peak = tracks.reduce((most, { truePeakDbtp }) => Math.max(most, linear(truePeakDbtp)), 0);
  const whole = readPower(power, 0, peak);
  const loudness = tracks.map(({ integratedLufs }) => integratedLufs ?? Number.NEGATIVE_INFINITY);
  const loudest = loudness.indexOf(Math.max(...loudness));
  return {
    ...whole,
    durationSeconds,
    tracks: tracks.map((track) => ({ ...track, fromWholeLu: difference(track.integratedLufs, whole.integratedLufs) })),
    loudest: loudest >= 0 && Number.isFinite(loudness[loudest]) ? loudest : null,
  };
}

/** Lengths in seconds are sums of quotients: a whole number of 100 ms may come out a hair below. */
const EDGE_TOLERANCE = 1e-6;

function trackOf(part: JoinedPart, startSeconds: number): JoinedTrack {
  const { weightedPower, sampleRateHz, frames, gainDb = 0 } = part;
  return {
    startSeconds,
    durationSeconds: frames / sampleRateHz,
    integratedLufs: readPower(Float64Array.from(weightedPower), gainDb, 0).integratedLufs,
    fromWholeLu: null,
    truePeakDbtp: addGain(part.truePeakDbtp, gainDb),
  };
}

/** Adds the power of one programme where it is heard. What its last, incomplete 100 ms hold is taken to be like those before. */
function addPart(
  power: Float64Array,
  { weightedPower, sampleRateHz, frames, gainDb = 0 }: JoinedPart,
  startSeconds: number,
  overlapSeconds: { in: number; out: number },
): void {
  const fade = (seconds: number) => {
    const length = Math.round(seconds * sampleRateHz);
    return length > 0 ? { frames: length, shape: CROSSFADE } : null;
  };
  const faded = fadedPower(
    weightedPower,
    { sampleRateHz, frames },
    { fadeIn: fade(overlapSeconds.in), fadeOut: fade(overlapSeconds.out) },
  );
  const factor = dbToPower(gainDb);
  const bins = Math.ceil((frames * BINS_PER_SECOND) / sampleRateHz);
  for (let bin = 0; bin < bins; bin++) {
    const value = factor * (faded[Math.min(bin, faded.length - 1)] ?? 0);
    const end = Math.min(frames, gridFrame(bin + 1, BINS_PER_SECOND, sampleRateHz));
    spread(
      power,
      value,
      (startSeconds + gridFrame(bin, BINS_PER_SECOND, sampleRateHz) / sampleRateHz) * BINS_PER_SECOND,
      (startSeconds + end / sampleRateHz) * BINS_PER_SECOND,
    );
  }
}

/** Adds a power that is heard from one place to another, in 100 ms, to the 100 ms that lie there. */
function spread(power: Float64Array, value: number, from: number, to: number): void {
  for (let bin = Math.max(0, Math.floor(from)); bin < Math.min(power.length, to); bin++) {
    const share = Math.min(to, bin + 1) - Math.max(from, bin);
    if (share > 0) power[bin] = (power[bin] as number) + share * value;
  }
}

function linear(dbtp: Level): number {
  return dbtp === null ? 0 : dbToAmplitude(dbtp);
}

function difference(a: Level, b: Level): number | null {
  return a === null || b === null ? null : a - b;
}
