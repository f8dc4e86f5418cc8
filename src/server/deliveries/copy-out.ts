import { constants } from 'node:fs';
import { access, copyFile, mkdir, rename, rm, writeFile } from 'node:fs/promises';
import { basename, dirname, extname, join, resolve } from 'node:path';
import { AppError } from '@/core/errors/app-error';
import { plainName } from '@/core/lineup/track-name';
import { fileError } from '@/workers/node/file-bytes';
import { hashFile } from '@/workers/node/hash-file';
import { flush } from '@/workers/node/place-file';
import type { ServerContext } from '../context';
import { jobOf } from '../jobs/jobs';
import type { TaskContext } from '../tasks/runner';
import { type TaskView, taskOrNull } from '../tasks/view';
import { handedOver } from './handed-over';

/** The folder of this machine that files are copied into; undefined where OPSIMETER_OUTPUT names none. */
function outputFolder(named = process.env.OPSIMETER_OUTPUT): string | undefined {
  return named ? resolve(/*turbopackIgnore: true*/ named) : undefined;
}

/** How far the copies of a job are, and where they are put; null where there is no output folder. */
export interface CopyOutView {
  path: string;
  /** Of the newest copy; null before the first. */
  task: TaskView | null;
}

/** Throws `not-found`. */
export function viewCopyOut(server: ServerContext, jobId: string): CopyOutView | null {
  const { name } = jobOf(server, jobId);
  const root = outputFolder();
  return root === undefined
    ? null
    : { path: join(root, plainName(name)), task: taskOrNull(server.queue.latest('copy-out', [jobId]).get(jobId)) };
}

/**
 * Has everything of a job that can be handed over copied into a folder of its own within the output folder; a task does it. However many
 * ask at once, it is done once.
 *
 * @returns the task's id
 * @throws AppError `not-found`, or `no-output-folder`
 */
export function orderCopyOut(server: ServerContext, jobId: string): string {
  if (!viewCopyOut(server, jobId)) throw new AppError('no-output-folder', {});
  const { id } = server.queue.enqueue('copy-out', jobId);
  server.runner.wake();
  return id;
}

/**
 * Copies everything that can be handed over. What is there already as it is stays; nothing is overwritten: another file of a name that is
 * taken is numbered. Done again after a crash, it goes on with what is missing.
 *
 * @throws AppError as `handedOver` and `orderCopyOut`; `delivery-altered`, or what a disk says
 */
export async function performCopyOut(server: ServerContext, jobId: string, context: TaskContext): Promise<void> {
  const place = viewCopyOut(server, jobId);
  if (!place) throw new AppError('no-output-folder', {});
  const { files, made } = await handedOver(server, jobId);
  const all = files.length + made.length;
  for (const [i, { path, name, sha256 }] of files.entries()) {
    if (context.signal.aborted) throw new AppError('cancelled', {});
    await putCopy(place.path, name, sha256, (temporary) => copyFile(path, temporary, constants.COPYFILE_FICLONE));
    context.onProgress({ fraction: (i + 1) / all, timesRealTime: null });
  }
  for (const { name, bytes } of made) await putCopy(place.path, name, null, (temporary) => writeFile(temporary, bytes));
}

/** @param sha256 of what it must be; null of what is made here */
async function putCopy(
  folder: string,
  name: string,
  sha256: string | null,
  write: (temporary: string) => Promise<void>,
): Promise<void> {
  const path = join(folder, name);
  // One at a time is copied: what a process left that was ended is written over.
  const temporary = join(dirname(path), `.${basename(path)}.part`);
  try {
    await mkdir(dirname(path), { recursive: true });
    await write(temporary);
    const written = await hashFile(temporary);
    if (sha256 !== null && written !== sha256) throw new AppError('delivery-altered', { fileName: name });
    const free = await freePath(path, written);
    if (free === undefined) return;
    await flush(temporary);
    await rename(temporary, free);
    await flush(dirname(free));
  } catch (error) {
    throw fileError(error, name, 'not-writable');
  } finally {
    await rm(temporary, { force: true });
  }
}

/** The first path that is free, numbered from the second on; undefined where one of them is this very file. */
async function freePath(path: string, sha256: string): Promise<string | undefined> {
  const extension = extname(path);
  const stem = path.slice(0, path.length - extension.length);
  for (let number = 1; ; number++) {
    const candidate = number === 1 ? path : `${stem} ${number}${extension}`;
    const isThere = await access(candidate).then(
      () => true,
      () => false,
    );
    if (!isThere) return candidate;
    if ((await hashFile(candidate)) === sha256) return undefined;
  }
}
