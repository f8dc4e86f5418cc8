import type { Inspection } from '../inspection/inspection';
import type { PairRelation } from '../loudness/channel-pair';
import { powerToLufs } from '../loudness/gating';
import type { Measurement } from '../loudness/programme';
import { dbToAmplitude, type Level } from '../units/decibel';
import { BINS_PER_SECOND, gridFrame } from '../units/frames';
import { MOST_PLACES, type Place } from './place';
import type { SourceFacts } from './source-facts';

/**
 * What findings are made from beside the readings, small enough to be kept with them: a finding that is added or reworded later
 * speaks of files that were measured before, and none is read again.
 */
export interface Evidence {
  facts: SourceFacts;
  inspection: Inspection;
  /** Of a programme of two channels, what the second is to the first. */
  pair: PairRelation | null;
  /** By how much L is louder than R over the whole programme; null where one of them is silent or there is none. */
  leftOverRightLu: number | null;
  sound: SoundExtent;
  /** The first clipped runs and the longest of them; null where there is none. */
  clipped: { first: Place[]; longest: Place } | null;
}

/** From where to where a programme sounds, to 100 ms. */
interface SoundExtent {
  /** First frame of the first 100 ms that sounds. */
  startFrame: number;
  /** First frame behind the last. */
  endFrame: number;
  /** First frame behind the last whole 100 ms. */
  lastFrame: number;
  /** First frame of the last whole 100 ms, and how loud it is. */
  endingStartFrame: number;
  endingLufs: Level;
}

/** A peak below this is nothing that is heard (common practice, no source). */
const SOUND_DBTP = -60;

export function gatherEvidence(measurement: Measurement, inspection: Inspection, facts: SourceFacts): Evidence {
  return {
    facts,
    inspection,
    pair: measurement.pair,
    leftOverRightLu: leftOverRight(measurement),
    sound: soundExtent(measurement, facts),
    clipped: clippedPlaces(measurement),
  };
}

function leftOverRight({ readings, series }: Measurement): number | null {
  const [left, right] = ['L', 'R'].map((label) =>
    meanLufs(series.energies[readings.perChannel.findIndex((channel) => channel.label === label)]),
  );
  return left == null || right == null ? null : left - right;
}

function meanLufs(powers: Float64Array | undefined): Level {
  if (!powers || powers.length === 0) return null;
  return powerToLufs(powers.reduce((sum, power) => sum + power, 0) / powers.length);
}

function soundExtent({ series }: Measurement, { frames, sampleRateHz }: SourceFacts): SoundExtent {
  const { truePeaks, weightedPower } = series;
  const least = dbToAmplitude(SOUND_DBTP);
  const bins = truePeaks[0]?.length ?? 0;
  const sounds = (bin: number) => truePeaks.some((peaks) => (peaks[bin] ?? 0) >= least);
  let first = 0;
  while (first < bins && !sounds(first)) first++;
  let last = bins - 1;
  while (last > first && !sounds(last)) last--;
  const frameOf = (bin: number) => Math.min(frames, gridFrame(Math.max(0, bin), BINS_PER_SECOND, sampleRateHz));
  return {
    startFrame: frameOf(first),
    endFrame: frameOf(last + 1),
    lastFrame: frameOf(bins),
    endingStartFrame: frameOf(bins - 1),
    endingLufs: powerToLufs(weightedPower.at(-1) ?? 0),
  };
}

function clippedPlaces({ readings, clippedRuns }: Measurement): Evidence['clipped'] {
  const places = clippedRuns
    .flatMap((runs, i) => runs.map((run): Place => ({ ...run, channel: readings.perChannel[i]?.label ?? null })))
    .sort((a, b) => a.startFrame - b.startFrame);
  const [first] = places;
  if (!first) return null;
  const longest = places.reduce((most, run) => (run.frames > most.frames ? run : most), first);
  return { first: places.slice(0, MOST_PLACES), longest };
}
