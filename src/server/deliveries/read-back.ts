import { rm, stat } from 'node:fs/promises';
import { decode } from '@/codecs/decode';
import { probe } from '@/codecs/probe';
import { isAppError } from '@/core/errors/app-error';
import { readFileTags } from '@/workers/node/file-metadata';
import { decodedFormat, peekHeader } from '@/workers/node/measure-file';
import { joinChannels } from '@/workers/node/pcm-file';
import type { FileReport } from '@/workers/protocol';
import type { ServerContext } from '../context';
import type { TaskContext } from '../tasks/runner';

interface Written {
  fileName: string;
  sha256: string;
  layoutId: string | null;
  /** How many frames were written, where that is known: a coded file that states as many is read no further. */
  frames?: number | null | undefined;
}

/**
 * Measures a delivery from its files, whatever they are: one that is coded is decoded, several are put together again. What
 * that needs stands beside the first of them, and is gone afterwards.
 */
export async function readBack(
  server: ServerContext,
  paths: readonly string[],
  written: Written,
  context: TaskContext,
): Promise<FileReport> {
  const report = await readSamples(server, paths, written, context);
  let sizeBytes = 0;
  for (const path of paths) sizeBytes += (await stat(path)).size;
  return { ...report, sizeBytes };
}

async function readSamples(
  { pool }: ServerContext,
  paths: readonly string[],
  { fileName, sha256, layoutId, frames }: Written,
  context: TaskContext,
): Promise<FileReport> {
  const [first = ''] = paths;
  const samplesPath = `${first}.samples.part`;
  const measure = (path: string, origin: FileReport['format'] | null) =>
    pool.run(
      { kind: 'measure', path, fileName, sha256, layoutId, origin, treatedBefore: null, analysisPath: null },
      context,
    );
  try {
    if (paths.length > 1) {
      await joinChannels(paths, samplesPath);
      const report = await measure(samplesPath, null);
      return { ...report, tags: await readFileTags(first, fileName, report.format) };
    }
    const isPcm = await peekHeader(first, fileName).then(
      () => true,
      (error) => {
        if (isAppError(error, 'not-audio')) return false;
        throw error;
      },
    );
    if (isPcm) {
      const report = await measure(first, null);
      return { ...report, tags: await readFileTags(first, fileName, report.format) };
    }
    const probed = await probe(first, fileName);
    const endFrame = probed.format.frames === frames ? frames : undefined;
    const decodeErrors = await decode(first, probed, samplesPath, fileName, { endFrame, signal: context.signal });
    const { format } = await peekHeader(samplesPath, fileName);
    const report = await measure(samplesPath, { ...decodedFormat(probed.format, format), decodeErrors });
    return { ...report, tags: await readFileTags(first, fileName, probed.format) };
  } finally {
    await rm(samplesPath, { force: true });
  }
}
