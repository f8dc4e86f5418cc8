import { powerToDb } from '../units/decibel';
import type { Pause } from './inspection';
import { Spectrum, spectrumFrames } from './spectrum';

/** Noise is as even as this in time: the loudest of its 25 ms over the quietest (common practice, no source). */
const MOST_SPREAD_DB = 7;
const PARTS = 20;
/** And over frequency, where music and voices have partials and gaps (common practice, no source). */
const LEAST_FLATNESS = 0.12;

/** Describes a half-second, the mean of its channels. */
export function describePause(
  channels: readonly Float32Array[],
  startFrame: number,
  sampleRateHz: number,
): Pause | null {
  const frames = channels[0]?.length ?? 0;
  const powers = Array.from({ length: PARTS }, (_, part) => {
    const [from, to] = [Math.floor((part * frames) / PARTS), Math.floor(((part + 1) * frames) / PARTS)];
    let sum = 0;
    for (const samples of channels) for (let n = from; n < to; n++) sum += (samples[n] ?? 0) ** 2;
    return sum / (Math.max(1, to - from) * channels.length);
  });
  const rmsDbfs = powerToDb(powers.reduce((sum, power) => sum + power, 0) / PARTS);
  if (rmsDbfs === null) return null;
  const spreadDb = 10 * Math.log10(Math.max(...powers) / Math.max(1e-30, Math.min(...powers)));
  const isNoise = spreadDb <= MOST_SPREAD_DB && isFlat(channels, sampleRateHz);
  return { startFrame, frames, rmsDbfs, isNoise };
}

function isFlat(channels: readonly Float32Array[], sampleRateHz: number): boolean {
  const spectrum = new Spectrum(sampleRateHz);
  const block = spectrumFrames(sampleRateHz);
  for (const samples of channels) {
    for (let from = 0; from + block <= samples.length; from += block)
      spectrum.add(samples.subarray(from, from + block));
  }
  return spectrum.flatness(200, Math.min(8000, 0.4 * sampleRateHz)) >= LEAST_FLATNESS;
}
