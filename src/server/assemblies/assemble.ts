import { mkdir, rename, rm } from 'node:fs/promises';
import { dirname } from 'node:path';
import type { AssemblyForm } from '@/core/lineup/assembly';
import { fileError } from '@/workers/node/file-bytes';
import { flush } from '@/workers/node/place-file';
import type { ServerContext } from '../context';
import type { AssemblyOutcome, StoredAssemblyOrder } from '../db/stored/assembly';
import { newId } from '../ids';
import type { TaskContext } from '../tasks/runner';
import { advanceAssembly, assemblyOf } from './assembly-record';
import { writeBookInto } from './write-book';
import { writeFilmInto } from './write-film';
import { writeRecordInto } from './write-record';
import { writeStemsInto } from './write-stems';

/** What writes each form into a folder. */
const WRITERS: Readonly<
  Record<
    AssemblyForm,
    (
      server: ServerContext,
      order: StoredAssemblyOrder,
      temporary: string,
      context: TaskContext,
    ) => Promise<AssemblyOutcome>
  >
> = {
  continuous: writeRecordInto,
  single: writeRecordInto,
  stems: writeStemsInto,
  book: writeBookInto,
  film: writeFilmInto,
};

/**
 * Writes a record, stems, a book, or a film, in a folder under a temporary name, gives it its name once everything in it was read back, and only then
 * records it. Done again after a crash, it ends in the same state.
 */
export async function performAssembly(server: ServerContext, assemblyId: string, context: TaskContext): Promise<void> {
  const { folder, clock } = server;
  const { state, jobId, folderName, order } = assemblyOf(server, assemblyId);
  if (state !== 'open') return;
  const temporary = folder.recordPart(jobId, newId());
  const finalFolder = folder.record(jobId, folderName);
  await mkdir(temporary, { recursive: true });
  let isRecorded = false;
  try {
    const outcome = await WRITERS[order.form](server, order, temporary, context);
    // The name is reserved for this one, and no row says that it was written: what lies there is an interrupted try.
    await rm(finalFolder, { recursive: true, force: true });
    await rename(temporary, finalFolder).catch((error) => {
      throw fileError(error, folderName, 'not-writable');
    });
    await flush(dirname(finalFolder));
    isRecorded = advanceAssembly(server, assemblyId, 'written', { outcome, writtenAtMs: clock.now() });
  } finally {
    await rm(temporary, { recursive: true, force: true });
    // Nobody waits for it any more, or it could not be recorded.
    if (!isRecorded) await rm(finalFolder, { recursive: true, force: true });
  }
}
