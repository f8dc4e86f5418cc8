import { mkdir, rename, rm } from 'node:fs/promises';
import { dirname } from 'node:path';
import { type RecordPlan, trackTags } from '@/core/lineup/record';
import { plainName } from '@/core/lineup/track-name';
import { writtenLayoutId } from '@/core/loudness/channel-layout';
import { preparationOf } from '@/core/treatment/treatment';
import type { AssemblySteps } from '@/workers/node/assembly-order';
import { fileError } from '@/workers/node/file-bytes';
import { flush } from '@/workers/node/place-file';
import { writeAssembly } from '@/workers/node/write-assembly';
import { trackSheetPdf } from '../certificates/track-sheet-pdf';
import type { ServerContext } from '../context';
import type { AssemblyOutcome, StoredAssemblyOrder } from '../db/stored/assembly';
import { newId } from '../ids';
import { layoutOf } from '../measure/measure-source';
import { prepareSource, whileHeld } from '../measure/prepared';
import type { TaskContext } from '../tasks/runner';
import { cdOf, planOf, trackTexts } from './assemblies';
import { advanceAssembly, assemblyOf } from './assembly-record';
import { addFile, fileSteps, openIntact } from './file-steps';
import { writeStemsInto } from './write-stems';

/**
 * Writes a record, or stems, in a folder under a temporary name, gives it its name once everything in it was read back, and only then
 * records it. Done again after a crash, it ends in the same state.
 */
export async function performAssembly(server: ServerContext, assemblyId: string, context: TaskContext): Promise<void> {
  const { folder, clock } = server;
  const { state, jobId, folderName, order } = assemblyOf(server, assemblyId);
  if (state !== 'open') return;
  const temporary = folder.recordPart(jobId, newId());
  await mkdir(temporary, { recursive: true });
  try {
    const write = order.form === 'stems' ? writeStemsInto : writeRecordInto;
    const outcome = await write(server, order, temporary, context);
    const finalFolder = folder.record(jobId, folderName);
    // The name is reserved for this one, and no row says that it was written: what lies there is an interrupted try.
    await rm(finalFolder, { recursive: true, force: true });
    await rename(temporary, finalFolder).catch((error) => {
      throw fileError(error, folderName, 'not-writable');
    });
    await flush(dirname(finalFolder));
    const isRecorded = advanceAssembly(server, assemblyId, 'written', { outcome, writtenAtMs: clock.now() });
    // Nobody waits for it any more.
    if (!isRecorded) await rm(finalFolder, { recursive: true, force: true });
  } finally {
    await rm(temporary, { recursive: true, force: true });
  }
}

async function writeRecordInto(
  server: ServerContext,
  order: StoredAssemblyOrder,
  temporary: string,
  context: TaskContext,
): Promise<AssemblyOutcome> {
  const plan = planOf(server, order);
  const { format, assembly } = plan;
  const { name, isBook, form, spec, record } = order;
  const { artist, catalogNumber, pregapSeconds, limit } = record;
  const said = { title: name, artist, catalogNumber, pregapSeconds, tracks: trackTexts(order) };
  const written = await writeAssembly(
    {
      folder: temporary,
      stem: plainName(name),
      form: form === 'single' ? 'single' : 'continuous',
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
  const sheet = await trackSheetPdf({ ...written, cd, order, plan, writtenAtMs: server.clock.now() });
  const files = [...written.files, await addFile(temporary, `${plainName(name)}.pdf`, sheet, 'track-sheet')];
  const { report, verdict, rows, reduction } = written;
  return { format, files, report, verdict, rows, reduction, cd, residual: null };
}

/** What is chosen by hand for the first holds for all: they have the same channels. */
function layoutOfMembers(server: ServerContext, [first]: StoredAssemblyOrder['members']): string | null {
  return first ? layoutOf(server, first.sourceSha256) : null;
}

function stepsOf(
  server: ServerContext,
  { members }: StoredAssemblyOrder,
  treatments: RecordPlan['treatments'],
  temporary: string,
  context: TaskContext,
): AssemblySteps {
  const { pool } = server;
  const { signal } = context;
  return {
    ...fileSteps(server, temporary, layoutOfMembers(server, members), context),
    async renderMember(index, outputPath, onProgress) {
      const { sourceSha256, fileName } = members[index] as StoredAssemblyOrder['members'][number];
      const treatment = treatments[index] as RecordPlan['treatments'][number];
      const { path, intact } = await openIntact(server, sourceSha256, fileName, context);
      const prepared = await prepareSource(server, sourceSha256, fileName, preparationOf(treatment));
      const opened = await prepared.open();
      const { limit } = treatment;
      const report = await whileHeld(prepared, () =>
        pool.run(
          {
            kind: 'render',
            source: opened,
            historyPath: path,
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
  };
}
