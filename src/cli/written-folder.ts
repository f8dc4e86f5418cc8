/** What records and stems of a job file have in common: a folder of their own, and how files in it are written and read back. */
import { existsSync } from 'node:fs';
import { mkdir, rename, rm } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { AppError } from '@/core/errors/app-error';
import type { AssemblySteps } from '@/workers/node/assembly-order';
import { joinParts } from '@/workers/node/join-parts';
import { peekHeader } from '@/workers/node/measure-file';
import { renderFile } from '@/workers/node/render-file';
import type { StemsSteps } from '@/workers/node/write-stems';
import { type MeasuringOptions, measureAudio } from './measuring';

/** Has a folder written beside its place, and gives it its name once it is whole. Throws `file-exists`, and what writing throws. */
export async function intoFolder<T>(folder: string, write: (temporary: string) => Promise<T>): Promise<T> {
  const temporary = join(dirname(folder), `.${basename(folder)}.${process.pid}.part`);
  await mkdir(temporary, { recursive: true });
  try {
    const written = await write(temporary);
    if (existsSync(folder)) throw new AppError('file-exists', { fileName: folder });
    await rename(temporary, folder);
    return written;
  } finally {
    await rm(temporary, { recursive: true, force: true });
  }
}

export function assemblySteps(
  options: MeasuringOptions,
): Pick<AssemblySteps, 'join' | 'measure'> & Pick<StemsSteps, 'render'> {
  const layoutId = options.layoutId ?? null;
  const writtenAtMs = Date.now();
  return {
    join: (parts, frames, outputPath, onProgress) => joinParts(parts, frames, outputPath, { onProgress }),
    render: (sourcePath, { path, ...output }, treatment, said, onProgress, limiting) =>
      renderFile(sourcePath, path, { ...output, ...said, ...limiting, treatment, layoutId, writtenAtMs, onProgress }),
    measure: async (path, origin) => {
      const audio = { file: path, path, header: await peekHeader(path, path), origin: origin ?? undefined };
      const { report, measurement } = await measureAudio(audio, options);
      return { report, series: measurement.series };
    },
  };
}
