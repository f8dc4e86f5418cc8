/** Uploads that go on where they were interrupted: the open tus protocol, 1.0, over a folder of files. */
import { readdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { FileStore } from '@tus/file-store';
import { Server as TusServer } from '@tus/server';
import * as z from 'zod';
import { AppError, toErrorRecord } from '@/core/errors/app-error';
import type { ServerContext } from '../context';
import { statusOf } from '../http/respond';
import { type TakenIn, takeInArrived } from './take-in';

const UPLOADS_PATH = '/api/uploads';
/** What nobody has gone on with for so long is given up. */
const KEPT_MS = 7 * 24 * 3600 * 1000;

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
    this.#store = new FileStore({ directory: server.folder.uploads, expirationPeriodInMilliseconds: KEPT_MS });
    this.#tus = new TusServer({
      path: UPLOADS_PATH,
      datastore: this.#store,
      relativeLocation: true,
      onUploadCreate: async (_request, { metadata }) => {
        if (!described.safeParse(metadata).success) {
          throw refusal(new AppError('bad-request', { reason: 'the file or its job has no name' }));
        }
        return {};
      },
      onUploadFinish: async (_request, upload) => {
        try {
          const taken = await this.#finish(upload);
          return { status_code: 200, headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(taken) };
        } catch (error) {
          throw refusal(error);
        }
      },
    });
  }

  handle(request: Request): Promise<Response> {
    return this.#tus.handleWeb(request);
  }

  /** Takes in what was whole when the process ended, and clears away what nobody goes on with. */
  async resume(): Promise<void> {
    await this.#tus.cleanUpExpiredUploads();
    for (const name of await readdir(this.#server.folder.uploads)) {
      if (!name.endsWith('.json')) continue;
      const upload = await this.#store.getUpload(name.slice(0, -'.json'.length)).catch(() => undefined);
      if (!upload) await rm(join(this.#server.folder.uploads, name), { force: true });
      // Whoever sent it is told by its row, or by dropping it again.
      else if (upload.offset === upload.size) await this.#finish(upload).catch(() => undefined);
    }
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
