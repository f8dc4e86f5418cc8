import { HALF_SECOND_BINS } from '../loudness/quietest-half-second';
import type { Series } from '../loudness/series';
import { BINS_PER_SECOND } from '../units/frames';
import { edgeFrames, edgeSteps } from './edge-steps';
import type { Inspection } from './inspection';
import { PairSums } from './pair-figures';
import { describePause } from './pause';
import { loudPlaces, quietPlace } from './places';
import { Spectrum, spectrumFrames } from './spectrum';

/** Reads planar samples; fewer frames than asked for only at the end. */
export type ReadFrames = (startFrame: number, frames: number) => Promise<Float32Array[]>;

export interface Inspected {
  sampleRateHz: number;
  channels: number;
  frames: number;
}

/** The most that is read at once. */
export function mostInspectedFrames(sampleRateHz: number): number {
  return Math.max(spectrumFrames(sampleRateHz), pauseFrames(sampleRateHz));
}

function pauseFrames(sampleRateHz: number): number {
  return Math.floor((HALF_SECOND_BINS / BINS_PER_SECOND) * sampleRateHz);
}

/** Looks again at some places of a measured programme, which its series leads to. Little is read, whatever its length. */
export async function inspect(
  read: ReadFrames,
  series: Series,
  { sampleRateHz, channels, frames }: Inspected,
): Promise<Inspection> {
  const spectrum = new Spectrum(sampleRateHz);
  const pairSums = new PairSums();
  const blockFrames = spectrumFrames(sampleRateHz);
  for (const place of loudPlaces(series, sampleRateHz, frames, blockFrames)) {
    const planar = await read(place, blockFrames);
    const [left, right] = planar;
    if (!left || left.length < blockFrames) continue;
    for (const samples of planar) spectrum.add(samples);
    if (right && channels === 2) pairSums.add(left, right);
  }
  const edge = Math.min(frames, edgeFrames(sampleRateHz));
  const start = await read(0, edge);
  const end = (await read(frames - edge, edge)).map((samples) => samples.reverse());
  const quiet = quietPlace(series, sampleRateHz);
  const pause =
    quiet === undefined ? null : describePause(await read(quiet, pauseFrames(sampleRateHz)), quiet, sampleRateHz);
  return {
    bandEdgeHz: spectrum.bandEdgeHz(),
    singleRateDropDb: spectrum.singleRateDropDb(),
    pair: channels === 2 ? pairSums.figures() : null,
    edges: [...edgeSteps(start, 'start', sampleRateHz), ...edgeSteps(end, 'end', sampleRateHz)],
    pause,
  };
}
