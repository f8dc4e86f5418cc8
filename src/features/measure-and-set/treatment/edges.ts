import { NO_PREPARATION } from '@/core/treatment/treatment';
import { dbToAmplitude } from '@/core/units/decibel';
import { BINS_PER_SECOND, gridFrame } from '@/core/units/frames';
import { fetchArrays, programmeAddress, type SourceKey, type Trace } from '@/features/common/use-trace';
import type { Span } from '../trace/view';

/** What is softer than this at the ends is no sound yet (common practice, no source). */
const SOUND_DBFS = -60;
/** Kept around the first and the last sound, so that no beginning is cut into. */
const ROOM_SECONDS = 0.005;
/** Zero crossings are looked for this far around. */
const CROSSING_SECONDS = 0.02;

/** From the first sound of a source to its last; null where there is none. */
export async function soundRange(source: SourceKey, { meta, peaks }: Trace): Promise<Span | null> {
  const { sampleRateHz, frames, binsPerColumn } = meta;
  const least = dbToAmplitude(SOUND_DBFS);
  const columns = peaks.peaks[0]?.length ?? 0;
  const isSound = (column: number) => peaks.peaks.some((own) => (own[column] ?? 0) > least);
  const all = Array.from({ length: columns }, (_, column) => column);
  const [first, last] = [all.find(isSound), all.findLast(isSound)];
  if (first === undefined || last === undefined) return null;
  const edge = (column: number) => Math.min(frames, gridFrame(column * binsPerColumn, BINS_PER_SECOND, sampleRateHz));
  const [atStart, atEnd] = await Promise.all([
    readMagnitudes(source, edge(first), edge(first + 1)),
    readMagnitudes(source, edge(last), edge(last + 1)),
  ]);
  const loud = (magnitude: number) => magnitude > least;
  const room = Math.round(ROOM_SECONDS * sampleRateHz);
  const startFrame = edge(first) + Math.max(0, atStart.findIndex(loud));
  const endFrame = edge(last) + atEnd.findLastIndex(loud) + 1;
  return { startFrame: Math.max(0, startFrame - room), endFrame: Math.min(frames, endFrame + room) };
}

/** The frame nearest to one at which all channels together cross zero; the frame itself where none is near. */
export async function zeroCrossing(source: SourceKey, { meta }: Trace, frame: number): Promise<number> {
  const reach = Math.round(CROSSING_SECONDS * meta.sampleRateHz);
  const from = Math.max(0, frame - reach);
  const channels = await readFrames(source, from, Math.min(meta.frames, frame + reach));
  const sumAt = (n: number) => channels.reduce((sum, samples) => sum + (samples[n] ?? 0), 0);
  let best = frame;
  let distance = Number.POSITIVE_INFINITY;
  for (let n = 1; n < (channels[0]?.length ?? 0); n++) {
    if (sumAt(n - 1) < 0 === sumAt(n) < 0) continue;
    const off = Math.abs(from + n - frame);
    if (off < distance) [best, distance] = [from + n, off];
  }
  return best;
}

async function readMagnitudes(source: SourceKey, startFrame: number, endFrame: number): Promise<Float32Array> {
  const channels = await readFrames(source, startFrame, endFrame);
  return Float32Array.from({ length: channels[0]?.length ?? 0 }, (_, n) =>
    channels.reduce((most, samples) => Math.max(most, Math.abs(samples[n] ?? 0)), 0),
  );
}

async function readFrames(source: SourceKey, startFrame: number, endFrame: number): Promise<Float32Array[]> {
  const frames = Math.max(1, endFrame - startFrame);
  const asked = { preparation: JSON.stringify(NO_PREPARATION), startFrame, frames };
  const address = programmeAddress(source, 'frames', asked);
  const { arrays } = await fetchArrays(address, AbortSignal.timeout(10_000));
  return Object.values(arrays) as Float32Array[];
}
