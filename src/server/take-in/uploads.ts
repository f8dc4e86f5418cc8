/** Uploads that go on where they were interrupted: the open tus protocol, 1.0, over a folder of files. */
import { readdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { FileStore } from '@tus/file-store';
import { ERRORS, Server as TusServer } from '@tus/server';
import * as z from 'zod';
import { AppError, toErrorRecord } from '@/core/errors/app-error';
import type { ServerContext } from '../context';
import { statusOf } from '../http/respond';
import { checkRoom, freeBytes } from '../storage/free-space';
import { uploadMessages as messages } from './messages';
import { needJob, type TakenIn, takeInArrived } from './take-in';

const UPLOADS_PATH = '/api/uploads';
/** What nobody has gone on with for so long is given up. */
const ABANDONED_MS = 24 * 3600 * 1000;
/** No programme is longer: 24 channels of 32 bits at 384 kHz for two hours. */
const MOST_BYTES = 2 ** 38;
/** So many that are not whole yet may lie here. */
const MOST_OPEN = 500;

const described = z.object({ jobId: z.string().min(1).max(64), fileName: z.string().min(1).max(1000) });

interface Finished {
  id: string;
  metadata?: Record<string, string | null> | undefined;
}

/** Answers the protocol's requests. A file that is whole is taken in before its last request is answered. */
export class Uploads {
  readonly #server: ServerContext;
  readonly #store: FileStore;
  readonly #tus: TusServer;
  /** One that arrived whole is taken in once, however often its end is asked for. */
  readonly #finishing = new Map<string, Promise<TakenIn>>();

  constructor(server: ServerContext) {
    this.#server = server;
    this.#store = new FileStore({ directory: server.folder.uploads });
    this.#tus = new TusServer({
      path: UPLOADS_PATH,
      datastore: this.#store,
      relativeLocation: true,
      onUploadCreate: async (_request, { metadata, size }) => {
        try {
          await this.#checkNew(metadata, size);
          return {};
        } catch (error) {
          throw refusal(error);
        }
      },
      onUploadFinish: async (_request, upload) => {
        try {
          const taken = await this.#finish(upload);
          return { status_code: 200, headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(taken) };
        } catch (error) {
          throw refusal(error);
        }
      },
      // The package tells that a write failed, and keeps why to itself: a disk is what fails here.
      onResponseError: (_request, error) => {
        if (!('status_code' in error)) return refusal(error);
        return error.status_code === ERRORS.FILE_WRITE_ERROR.status_code && error.body === ERRORS.FILE_WRITE_ERROR.body
          ? this.#unwritten()
          : undefined;
      },
    });
  }

  async handle(request: Request): Promise<Response> {
    const { status, headers, body } = await this.#tus.handleWeb(request);
    const own = new Headers(headers);
    // The package lets every page of the web read its answers; ours are the only ones that may.
    for (const name of headers.keys()) if (name.startsWith('access-control-')) own.delete(name);
    return new Response(body, { status, headers: own });
  }

  /** Takes in what was whole when the process ended, and clears away what nobody goes on with. */
  async resume(): Promise<void> {
    await this.sweep();
    for (const upload of await this.#open()) {
      // Whoever sent it is told by its row, or by dropping it again.
      if (upload.offset === upload.size) await this.#finish(upload).catch(() => undefined);
    }
  }

  /** Clears away what nobody has gone on with for a day, and what is said of files that are not there. */
  async sweep(): Promise<void> {
    const { folder, clock } = this.#server;
    const names = await readdir(folder.uploads);
    for (const name of names) {
      const path = join(folder.uploads, name);
      const file = await stat(path).catch(() => undefined);
      const isAlone = name.endsWith('.json') && !names.includes(name.slice(0, -'.json'.length));
      const isOld = file && clock.now() - file.mtimeMs > ABANDONED_MS && !name.endsWith('.json');
      if (isAlone) await rm(path, { force: true });
      if (isOld) await Promise.all([rm(path, { force: true }), rm(`${path}.json`, { force: true })]);
    }
  }

  /** Throws `bad-request`, `not-found`, `too-large`, `too-busy`, or `no-room`. */
  async #checkNew(metadata: Finished['metadata'], size: number | undefined): Promise<void> {
    const known = described.safeParse(metadata);
    if (!known.success) throw new AppError('bad-request', { reason: messages.namesNothing });
    const { jobId, fileName } = known.data;
    if (!size) throw new AppError('empty-file', { fileName });
    if (size > MOST_BYTES) throw new AppError('too-large', { what: fileName, most: messages.mostBytes(MOST_BYTES) });
    needJob(this.#server, jobId);
    const open = await this.#open();
    if (open.length >= MOST_OPEN) throw new AppError('too-busy', {});
    const promised = open.reduce((sum, upload) => sum + Math.max(0, (upload.size ?? 0) - upload.offset), 0);
    await checkRoom(this.#server.folder.root, fileName, size + promised);
  }

  /** Those that lie here, whole or not. */
  async #open() {
    const names = (await readdir(this.#server.folder.uploads)).filter((name) => name.endsWith('.json'));
    const uploads = names.map((name) => this.#store.getUpload(name.slice(0, -'.json'.length)).catch(() => undefined));
    return (await Promise.all(uploads)).filter((upload) => upload !== undefined);
  }

  async #unwritten() {
    const free = await freeBytes(this.#server.folder.root).catch(() => 0);
    return refusal(new AppError('disk-full', { reason: free > 0 ? messages.diskFails : messages.diskIsFull }));
  }

  #finish(upload: Finished): Promise<TakenIn> {
    const known = this.#finishing.get(upload.id);
    if (known) return known;
    const finishing = this.#takeIn(upload).finally(() => this.#finishing.delete(upload.id));
    this.#finishing.set(upload.id, finishing);
    return finishing;
  }

  async #takeIn({ id, metadata }: Finished): Promise<TakenIn> {
    const path = join(this.#server.folder.uploads, id);
    try {
      await stat(path);
      return await takeInArrived(this.#server, described.parse(metadata), path);
    } finally {
      await rm(`${path}.json`, { force: true });
    }
  }
}

/** An error as the protocol's package answers with it. */
function refusal(error: unknown): { status_code: number; body: string } {
  return { status_code: statusOf(error), body: JSON.stringify({ error: toErrorRecord(error) }) };
}
