import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import { and, desc, eq, inArray, isNotNull, lt, ne, sql } from 'drizzle-orm';
import { ENGINE_VERSION } from '@/core/loudness/readings';
import type { ServerContext } from '../context';
import { intakeItems, lineEvents, lineSeconds, sourceReports, tasks } from '../db/schema';
import { purgeDeleted } from '../jobs/delete-job';
import { log } from '../log';
import type { Uploads } from '../take-in/uploads';
import {
  filesOf,
  forgetSources,
  isAtRest,
  removeFiles,
  STORE_KINDS,
  STORES,
  type StoredFile,
  type StoreKind,
} from './stores';

const HOUR_MS = 3_600_000;
const DAY_MS = 24 * HOUR_MS;
/** So much of what can be made again is left, unless OPSIMETER_CACHE_GB says otherwise. */
const CACHE_GB = 100;
/** What a task has come to is told for so long, where a newer one has not taken its place. */
const TASKS_MS = 30 * DAY_MS;
/** What lines read in each second, and what happened on them. */
const LINE_SECONDS_MS = 35 * DAY_MS;
const LINE_EVENTS_MS = 400 * DAY_MS;

type HouseContext = ServerContext & { uploads: Uploads };

/** What one part of the data folder takes, and what of it can go now. */
export interface StoreView {
  kind: StoreKind;
  files: number;
  bytes: number;
  /** It can be made again, or nobody needs it any more. */
  freeableBytes: number;
}

/** What of everything that only grows has a limit is brought back to it: an hour after the start and each hour from then on, or when asked. */
export class HouseKeeper {
  readonly #server: HouseContext;
  readonly #timer: NodeJS.Timeout;
  #sweeping: Promise<number> | undefined;

  constructor(server: HouseContext) {
    this.#server = server;
    this.#timer = setInterval(() => void this.sweep().catch(tell), HOUR_MS).unref();
  }

  async close(): Promise<void> {
    clearInterval(this.#timer);
    await this.#sweeping?.catch(() => undefined);
  }

  async view(): Promise<StoreView[]> {
    const views: StoreView[] = [];
    for (const kind of STORE_KINDS) {
      const files = await filesOf(this.#server, kind);
      const freeable = this.#freeable(kind, files);
      views.push({ kind, files: files.length, bytes: bytesOf(files), freeableBytes: bytesOf(freeable) });
    }
    return views;
  }

  /** What nobody needs, and what of it can be made again is over its budget. However many ask at once, it is done once. Answers how many bytes went. */
  sweep(): Promise<number> {
    this.#sweeping ??= this.#sweep().finally(() => {
      this.#sweeping = undefined;
    });
    return this.#sweeping;
  }

  /** Everything of some kinds that can go. Answers how many bytes went. */
  async free(kinds: readonly StoreKind[]): Promise<number> {
    let bytes = 0;
    for (const kind of kinds) {
      const freeable = this.#freeable(kind, await filesOf(this.#server, kind));
      await removeFiles(freeable);
      bytes += bytesOf(freeable);
    }
    return bytes;
  }

  #freeable(kind: StoreKind, files: readonly StoredFile[]): StoredFile[] {
    const { isRemakable, unneeded } = STORES[kind];
    if (isRemakable) return files.filter((file) => isAtRest(this.#server, file));
    return unneeded?.(this.#server, files) ?? [];
  }

  async #sweep(): Promise<number> {
    const server = this.#server;
    await server.uploads.sweep();
    await purgeDeleted(server);
    forgetSources(server);
    sweepRows(server);
    let freed = 0;
    const remakable: StoredFile[] = [];
    for (const kind of STORE_KINDS) {
      const files = await filesOf(server, kind);
      const gone = STORES[kind].unneeded?.(server, files) ?? [];
      await removeFiles(gone);
      freed += bytesOf(gone);
      if (STORES[kind].isRemakable) remakable.push(...files.filter((file) => !gone.includes(file)));
    }
    await sweepAnsweredItems(server);
    const over = overBudget(remakable, cacheBytes()).filter((file) => isAtRest(server, file));
    await removeFiles(over);
    return freed + bytesOf(over);
  }
}

function tell(error: unknown): void {
  log.error({ err: error }, 'house could not be kept; this is tried again in an hour');
}

function bytesOf(files: readonly StoredFile[]): number {
  return files.reduce((sum, { bytes }) => sum + bytes, 0);
}

function cacheBytes(stated = process.env.OPSIMETER_CACHE_GB): number {
  const gigabytes = stated === undefined || stated === '' ? CACHE_GB : Number(stated);
  return (gigabytes >= 0 ? gigabytes : CACHE_GB) * 1e9;
}

/** The ones used longest ago, as many as it takes for the others to be within a budget. */
function overBudget(files: readonly StoredFile[], mostBytes: number): StoredFile[] {
  let left = mostBytes;
  const newestFirst = [...files].sort((a, b) => b.modifiedAtMs - a.modifiedAtMs);
  return newestFirst.filter(({ bytes }) => {
    left -= bytes;
    return left < 0;
  });
}

/** Rows that only grow: tasks that newer ones have replaced, readings of older engines, the seconds of lines. */
function sweepRows({ db, clock }: HouseContext): void {
  const nowMs = clock.now();
  const isNewest = sql`${tasks.id} = (select newest.id from tasks newest where newest.kind = ${tasks.kind} and newest.subject_id = ${tasks.subjectId} order by newest.created_at_ms desc limit 1)`;
  db.delete(tasks)
    .where(
      and(
        inArray(tasks.state, ['done', 'failed', 'cancelled']),
        lt(tasks.finishedAtMs, nowMs - TASKS_MS),
        sql`not ${isNewest}`,
      ),
    )
    .run();
  const isReadAnew = sql`exists (select 1 from source_reports own where own.sha256 = ${sourceReports.sha256} and own.engine_version = ${ENGINE_VERSION})`;
  db.delete(sourceReports)
    .where(and(ne(sourceReports.engineVersion, ENGINE_VERSION), isReadAnew))
    .run();
  db.delete(lineSeconds)
    .where(lt(lineSeconds.atS, Math.floor((nowMs - LINE_SECONDS_MS) / 1000)))
    .run();
  db.delete(lineEvents)
    .where(and(isNotNull(lineEvents.endMs), lt(lineEvents.endMs, nowMs - LINE_EVENTS_MS)))
    .run();
}

/** What a simulated intake has answered long ago, and whose files are gone. */
async function sweepAnsweredItems({ db, folder, clock }: HouseContext): Promise<void> {
  const answered = db
    .select({ id: intakeItems.id, intakeId: intakeItems.intakeId, key: intakeItems.key })
    .from(intakeItems)
    .where(and(isNotNull(intakeItems.answeredAtMs), lt(intakeItems.answeredAtMs, clock.now() - TASKS_MS)))
    .orderBy(desc(intakeItems.receivedAtMs))
    .all();
  for (const { id, intakeId, key } of answered) {
    await rm(join(folder.intake(intakeId), key), { recursive: true, force: true });
    db.delete(intakeItems).where(eq(intakeItems.id, id)).run();
  }
}
