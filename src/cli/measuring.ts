import { availableParallelism } from 'node:os';
import { MessageChannel, Worker } from 'node:worker_threads';
import type { Measurement } from '@/core/loudness/programme';
import { SEGMENT_SECONDS } from '@/core/loudness/segment';
import { hashFile } from '@/workers/node/hash-file';
import type { HelperData } from '@/workers/node/helper';
import { measureFile, peekHeader } from '@/workers/node/measure-file';
import type { FileReport } from '@/workers/protocol';

export interface MeasuringOptions {
  /** A layout chosen by hand. */
  layoutId?: string | undefined;
  /** Hash the file as well: that takes longer than to measure it. */
  hash?: boolean;
}

/** A second thread is worth starting for as many segments as these; it takes as long to start as to measure some. */
const LEAST_SEGMENTS = 8;

/** Measures a file, with the help of other threads where it is long. */
export async function measure(
  file: string,
  { layoutId, hash = false }: MeasuringOptions = {},
): Promise<{ report: FileReport; measurement: Measurement }> {
  const { report, measurement } = await withCrew(file, layoutId);
  return { report: { ...report, sha256: hash ? await hashFile(file) : null }, measurement };
}

async function withCrew(file: string, layoutId: string | undefined) {
  const { frames, sampleRateHz } = (await peekHeader(file, file)).format;
  const helpers = availableParallelism() - 1;
  if (helpers === 0 || frames < LEAST_SEGMENTS * SEGMENT_SECONDS * sampleRateHz) {
    return measureFile(file, { fileName: file, layoutId });
  }
  const next = new SharedArrayBuffer(4);
  const threads = Array.from({ length: helpers }, () => startHelper(file, next));
  try {
    return await measureFile(file, {
      fileName: file,
      layoutId,
      crew: { next, ports: threads.map(({ port }) => port) },
    });
  } finally {
    await Promise.all(threads.map(({ worker }) => worker.terminate()));
  }
}

function startHelper(path: string, next: SharedArrayBuffer) {
  const { port1, port2 } = new MessageChannel();
  const workerData: HelperData = { path, crew: { next, ports: [port2] } };
  const worker = new Worker(new URL('./helper.mjs', import.meta.url), { workerData, transferList: [port2] });
  // The thread that leads finds out by itself, since the port closes.
  worker.on('error', () => undefined);
  return { worker, port: port1 };
}
