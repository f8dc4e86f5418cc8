import { amplitudeToDb, dbToAmplitude } from '@/core/units/decibel';

/** What is left is often faint: its highest sample is raised to here, and by no more than so much. */
const RAISED_TO_DBFS = -12;
const MOST_RAISED_DB = 60;

/** Samples as loud as they are heard well, and by how much they were raised; never turned down. */
export function raised(channels: readonly Float32Array[]): { channels: Float32Array[]; raisedByDb: number } {
  let peak = 0;
  for (const samples of channels) for (const sample of samples) peak = Math.max(peak, Math.abs(sample));
  const peakDb = amplitudeToDb(peak);
  const raisedByDb = peakDb === null ? 0 : Math.min(MOST_RAISED_DB, Math.max(0, RAISED_TO_DBFS - peakDb));
  const gain = dbToAmplitude(raisedByDb);
  return { channels: channels.map((samples) => samples.map((sample) => sample * gain)), raisedByDb };
}
