import { rm, stat, writeFile } from 'node:fs/promises';
import { basename, join } from 'node:path';
import { eq } from 'drizzle-orm';
import { AppError } from '@/core/errors/app-error';
import type { AssembledRole } from '@/core/lineup/assembly';
import { withAnalysis } from '@/workers/node/analysis-file';
import type { AssembledFile, AssemblySteps } from '@/workers/node/assembly-order';
import { hashFile } from '@/workers/node/hash-file';
import type { StemsSteps } from '@/workers/node/write-stems';
import type { ServerContext } from '../context';
import { sources } from '../db/schema';
import { openAudio } from '../measure/audio';
import { checkSource } from '../take-in/reference';
import { quietly, type TaskContext } from '../tasks/runner';

/** How files of a record or of stems are joined, written and read back, in threads. */
export function fileSteps(
  server: ServerContext,
  temporary: string,
  layoutId: string | null,
  { signal }: TaskContext,
): Pick<AssemblySteps, 'join' | 'measure'> & Pick<StemsSteps, 'render'> {
  const { pool, clock } = server;
  const writtenAtMs = clock.now();
  return {
    join: (parts, frames, outputPath, onProgress) =>
      pool.run({ kind: 'join', parts, frames, outputPath }, { signal, onProgress }),
    render: (sourcePath, { path, ...output }, treatment, { tags, markers }, onProgress, limiting) =>
      pool.run(
        {
          kind: 'render',
          source: sourcePath,
          historyPath: sourcePath,
          outputPath: path,
          fileName: path,
          layoutId,
          treatment,
          ...output,
          ...limiting,
          tags,
          markers,
          writtenAtMs,
        },
        { signal, onProgress },
      ),
    async measure(path, origin, onProgress) {
      const own = join(temporary, `.${basename(path)}.analysis.part`);
      try {
        const job = {
          kind: 'measure',
          path,
          fileName: path,
          sha256: '',
          layoutId,
          origin,
          treatedBefore: null,
        } as const;
        const report = await pool.run({ ...job, analysisPath: own }, { signal, onProgress });
        return { report, series: await withAnalysis(own, (analysis) => analysis.series()) };
      } finally {
        await rm(own, { force: true });
      }
    },
  };
}

/** Opens a source's samples; its bytes are hashed while they are worked on, so that nothing is made of what was not taken in. */
export async function openIntact(
  server: ServerContext,
  sourceSha256: string,
  fileName: string,
  { signal }: TaskContext,
): Promise<{ source: typeof sources.$inferSelect; path: string; intact: Promise<void> }> {
  const source = server.db.select().from(sources).where(eq(sources.sha256, sourceSha256)).get();
  if (!source) throw new AppError('not-found', { what: 'source' });
  const { path } = await openAudio(server, sourceSha256, fileName, { ...quietly(), signal });
  const intact = checkSource(server, source, fileName);
  // Whoever waits for it is told; meanwhile nobody may be.
  intact.catch(() => undefined);
  return { source, path, intact };
}

/** Adds a file to those that were written. */
export async function addFile(
  folder: string,
  fileName: string,
  bytes: Buffer,
  role: AssembledRole,
): Promise<AssembledFile> {
  const path = join(folder, fileName);
  await writeFile(path, bytes, { flag: 'wx', flush: true });
  const { size: sizeBytes } = await stat(path);
  return { fileName, role, track: null, sizeBytes, sha256: await hashFile(path) };
}
