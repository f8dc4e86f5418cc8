import { mkdir, rename, rm, stat, writeFile } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { eq } from 'drizzle-orm';
import { AppError } from '@/core/errors/app-error';
import { trackTags } from '@/core/lineup/record';
import { plainName } from '@/core/lineup/track-name';
import { writtenLayoutId } from '@/core/loudness/channel-layout';
import { preparationOf } from '@/core/treatment/treatment';
import { withAnalysis } from '@/workers/node/analysis-file';
import type { AssembledFile, AssemblySteps } from '@/workers/node/assembly-order';
import { fileError } from '@/workers/node/file-bytes';
import { hashFile } from '@/workers/node/hash-file';
import { flush } from '@/workers/node/place-file';
import { writeAssembly } from '@/workers/node/write-assembly';
import { trackSheetPdf } from '../certificates/track-sheet-pdf';
import type { ServerContext } from '../context';
import { sources } from '../db/schema';
import type { StoredAssemblyOrder } from '../db/stored/assembly';
import { newId } from '../ids';
import { openAudio } from '../measure/audio';
import { layoutOf } from '../measure/measure-source';
import { prepareSource, whileHeld } from '../measure/prepared';
import { checkSource } from '../take-in/reference';
import { quietly, type TaskContext } from '../tasks/runner';
import { cdOf, planOf, trackTexts } from './assemblies';
import { advanceAssembly, assemblyOf } from './assembly-record';

/**
 * Writes a record in a folder under a temporary name, gives it its name once everything in it was read back, and only then records it.
 * Done again after a crash, it ends in the same state.
 */
export async function performAssembly(server: ServerContext, assemblyId: string, context: TaskContext): Promise<void> {
  const { folder, clock } = server;
  const { state, jobId, folderName, order } = assemblyOf(server, assemblyId);
  if (state !== 'open') return;
  const plan = planOf(server, order);
  const { format, assembly } = plan;
  const temporary = folder.recordPart(jobId, newId());
  await mkdir(temporary, { recursive: true });
  try {
    const { name, isBook, form, spec, record } = order;
    const { artist, catalogNumber, pregapSeconds, limit } = record;
    const said = { title: name, artist, catalogNumber, pregapSeconds, tracks: trackTexts(order) };
    const written = await writeAssembly(
      {
        folder: temporary,
        stem: plainName(name),
        form,
        isBook,
        assembly,
        record: said,
        trackTags: order.members.map(({ tags }, i) => trackTags(said, i, tags)),
        format,
        spec,
        limit,
        cover: null,
        layoutId: writtenLayoutId(format.channels, layoutOfMembers(server, order.members)),
      },
      stepsOf(server, order, plan.treatments, temporary, context),
      context,
    );
    const cd = cdOf(order, plan);
    const sheet = await trackSheetPdf({ ...written, cd, order, plan, writtenAtMs: clock.now() });
    const files = [...written.files, await addFile(temporary, `${plainName(name)}.pdf`, sheet)];
    const finalFolder = folder.record(jobId, folderName);
    // The name is reserved for this record, and no row says that it was written: what lies there is an interrupted try.
    await rm(finalFolder, { recursive: true, force: true });
    await rename(temporary, finalFolder).catch((error) => {
      throw fileError(error, folderName, 'not-writable');
    });
    await flush(dirname(finalFolder));
    const { report, verdict, rows, reduction } = written;
    const outcome = { format, files, report, verdict, rows, reduction, cd };
    const isRecorded = advanceAssembly(server, assemblyId, 'written', { outcome, writtenAtMs: clock.now() });
    // Nobody waits for it any more.
    if (!isRecorded) await rm(finalFolder, { recursive: true, force: true });
  } finally {
    await rm(temporary, { recursive: true, force: true });
  }
}

/** What is chosen by hand for the first holds for all: they have the same channels. */
function layoutOfMembers(server: ServerContext, [first]: StoredAssemblyOrder['members']): string | null {
  return first ? layoutOf(server, first.sourceSha256) : null;
}

function stepsOf(
  server: ServerContext,
  { members }: StoredAssemblyOrder,
  treatments: ReturnType<typeof planOf>['treatments'],
  temporary: string,
  { signal }: TaskContext,
): AssemblySteps {
  const { pool, clock } = server;
  const layoutId = layoutOfMembers(server, members);
  const writtenAtMs = clock.now();
  const analysisPath = (path: string) => join(temporary, `.${basename(path)}.analysis.part`);
  return {
    async renderMember(index, outputPath, onProgress) {
      const { sourceSha256, fileName } = members[index] as StoredAssemblyOrder['members'][number];
      const treatment = treatments[index] as (typeof treatments)[number];
      const source = server.db.select().from(sources).where(eq(sources.sha256, sourceSha256)).get();
      if (!source) throw new AppError('not-found', { what: 'source' });
      const audio = await openAudio(server, sourceSha256, fileName, { ...quietly(), signal });
      // Hashed while it is worked on: nothing is written that was made of anything else than what was taken in.
      const intact = checkSource(server, source, fileName);
      intact.catch(() => undefined);
      const prepared = await prepareSource(server, sourceSha256, fileName, preparationOf(treatment));
      const opened = await prepared.open();
      const { limit } = treatment;
      const report = await whileHeld(prepared, () =>
        pool.run(
          {
            kind: 'render',
            source: opened,
            historyPath: audio.path,
            outputPath,
            fileName,
            layoutId: layoutOf(server, sourceSha256),
            treatment,
            bitDepth: 32,
            limitingPath: limit ? prepared.limitingPath(limit) : undefined,
          },
          { signal, onProgress },
        ),
      );
      await intact;
      return report;
    },
    join: (parts, frames, outputPath, onProgress) =>
      pool.run({ kind: 'join', parts, frames, outputPath }, { signal, onProgress }),
    render: (sourcePath, { path, ...output }, treatment, { tags, markers }, onProgress) =>
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
          tags,
          markers,
          writtenAtMs,
        },
        { signal, onProgress },
      ),
    async measure(path, origin, onProgress) {
      const own = analysisPath(path);
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

async function addFile(folder: string, fileName: string, bytes: Buffer): Promise<AssembledFile> {
  const path = join(folder, fileName);
  await writeFile(path, bytes, { flag: 'wx', flush: true });
  const { size: sizeBytes } = await stat(path);
  return { fileName, role: 'track-sheet', track: null, sizeBytes, sha256: await hashFile(path) };
}
