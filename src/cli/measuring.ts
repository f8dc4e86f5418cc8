import { mkdtemp, rm, stat } from 'node:fs/promises';
import { availableParallelism, tmpdir } from 'node:os';
import { join } from 'node:path';
import { MessageChannel, Worker } from 'node:worker_threads';
import type { LabelledStart } from '@/core/delivery/start-time-code';
import { AppError, isAppError } from '@/core/errors/app-error';
import type { Measurement } from '@/core/loudness/programme';
import { SEGMENT_SECONDS } from '@/core/loudness/segment';
import { hashFile } from '@/workers/node/hash-file';
import type { HelperData } from '@/workers/node/helper';
import { measureFile, peekHeader } from '@/workers/node/measure-file';
import { newCounters } from '@/workers/node/segment-workers';
import type { FileReport } from '@/workers/protocol';
import type { Audio, WantedRendering } from './audio';

export interface MeasuringOptions {
  /** A layout chosen by hand. */
  layoutId?: string | undefined;
  /** Sound tracks of the file, counted from 1, put together in this order; the first alone unless it is stated. */
  tracks?: readonly number[] | undefined;
  /** A rendering of the file's audio definition in its place. */
  rendering?: WantedRendering | undefined;
  /** Of the first frame, set by hand in place of the file's own. */
  timeCode?: LabelledStart | undefined;
  /** Hash the file as well: that takes longer than to measure it. */
  hash?: boolean;
}

/** A second thread is worth starting for as many segments as these; it takes as long to start as to measure some. */
const LEAST_SEGMENTS = 8;

/**
 * Opens a file's samples; a file that is not PCM is decoded to a temporary folder first.
 *
 * @param options.endFrame where its sound is known to end, whatever its decoder makes of it
 * @param options.tracks which of its sound tracks; a file without any has one
 */
export async function withAudio<T>(
  file: string,
  use: (audio: Audio) => Promise<T>,
  {
    endFrame,
    tracks = [1],
    rendering,
  }: Pick<MeasuringOptions, 'tracks' | 'rendering'> & { endFrame?: number | undefined } = {},
): Promise<T> {
  if (rendering) {
    // Loaded only now: few files have a definition.
    const { withRendering } = await import('./rendering');
    return withRendering(file, rendering, use);
  }
  const header = await peekHeader(file, file).catch((error) => {
    if (!isAppError(error, 'not-audio')) throw error;
  });
  if (header) {
    const missing = tracks.find((number) => number > 1);
    if (missing !== undefined) throw new AppError('no-such-track', { fileName: file, track: missing, of: 1 });
    return use({ file, path: file, header, origin: undefined });
  }
  // Loaded only now: most files don't need it, and are measured sooner without.
  const [{ probeTracks }, { decode }] = await Promise.all([import('@/codecs/tracks'), import('@/codecs/decode')]);
  const folder = await mkdtemp(join(tmpdir(), 'opsimeter-'));
  try {
    const probed = await probeTracks(file, file, tracks);
    const path = join(folder, 'decoded.wav');
    const decodeErrors = await decode(file, probed, path, file, { endFrame, isTimed: true });
    return await use({ file, path, header: await peekHeader(path, file), origin: { ...probed.format, decodeErrors } });
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

/** Opens files one within the other, so that what was decoded of each is there until the last is done with. */
export async function withAudios<T>(
  files: readonly string[],
  use: (audios: readonly Audio[]) => Promise<T>,
  opened: readonly Audio[] = [],
): Promise<T> {
  const file = files[opened.length];
  return file === undefined ? use(opened) : withAudio(file, (audio) => withAudios(files, use, [...opened, audio]));
}

/** By how many frames each begins later than the first, by time references; null where not all state one. */
export async function audioOffsets(audios: readonly Audio[]): Promise<number[] | null> {
  // What reads tags is large, and only this needs it.
  const { statedOffsets } = await import('@/workers/node/stated-offsets');
  return statedOffsets(
    audios.map(({ file, header, origin }) => ({ path: file, fileName: file, format: origin ?? header.format })),
  );
}

/** Measures a file, with the help of other threads where it is long. */
export function measure(file: string, options?: MeasuringOptions) {
  return withAudio(file, (audio) => measureAudio(audio, options), {
    tracks: options?.tracks,
    rendering: options?.rendering,
  });
}

export async function measureAudio(
  audio: Audio,
  { layoutId, hash = false }: MeasuringOptions = {},
): Promise<{ report: FileReport; measurement: Measurement }> {
  const { file } = audio;
  const { report, measurement } = await withSegmentWorkers(audio, layoutId);
  const { size } = await stat(file);
  return { report: { ...report, sizeBytes: size, sha256: hash ? await hashFile(file) : null }, measurement };
}

async function withSegmentWorkers({ file, path, header, origin }: Audio, layoutId: string | undefined) {
  const { frames, sampleRateHz } = header.format;
  const options = { fileName: file, layoutId, origin };
  const helpers = availableParallelism() - 1;
  if (helpers === 0 || frames < LEAST_SEGMENTS * SEGMENT_SECONDS * sampleRateHz) return measureFile(path, options);
  const next = newCounters();
  const threads = Array.from({ length: helpers }, () => startHelper(path, next));
  try {
    return await measureFile(path, { ...options, segmentWorkers: { next, ports: threads.map(({ port }) => port) } });
  } finally {
    await Promise.all(threads.map(({ worker }) => worker.terminate()));
  }
}

function startHelper(path: string, next: SharedArrayBuffer) {
  const { port1, port2 } = new MessageChannel();
  const workerData: HelperData = { path, segmentWorkers: { next, ports: [port2] } };
  const worker = new Worker(new URL('./helper.mjs', import.meta.url), {
    workerData,
    transferList: [port2],
    // Samples lie outside the heap: what is inside is little, and soon gone.
    resourceLimits: { maxYoungGenerationSizeMb: 8 },
  });
  // The thread that leads finds out by itself, since the port closes.
  worker.on('error', () => undefined);
  return { worker, port: port1 };
}
