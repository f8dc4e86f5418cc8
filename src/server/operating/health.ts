import { sql } from 'drizzle-orm';
import { isFfmpegThere } from '@/codecs/ffmpeg';
import type { ServerContext } from '../context';
import { tasks } from '../db/schema';
import { freeBytes } from '../storage/free-space';

/** What waits for longer than this, though something could take it up, is told. */
const LATE_SECONDS = 3600;

/** One thing that the app stands on. */
interface HealthCheck {
  isWell: boolean;
  [figure: string]: number | boolean | null;
}

export interface Health {
  /** `failing`: nothing can be saved. `degraded`: something can't be done. */
  status: 'ok' | 'degraded' | 'failing';
  checks: {
    database: HealthCheck;
    dataFolder: HealthCheck;
    space: HealthCheck;
    ffmpeg: HealthCheck;
    queue: HealthCheck;
  };
}

/** What whoever watches this app from outside asks for, every few seconds. */
export async function healthOf({ db, folder, clock }: ServerContext): Promise<Health> {
  const startedMs = performance.now();
  const database = attempt(() => db.get<{ one: number }>(sql`select 1 as one`)?.one === 1);
  const answeredInMs = Math.round(performance.now() - startedMs);
  const free = await freeBytes(folder.root).catch(() => 0);
  const queue = attempt(() => queueFigures(db, clock.now()));
  const checks = {
    database: { isWell: database === true, answeredInMs },
    dataFolder: { isWell: folder.isThere },
    space: { isWell: free > 0, freeBytes: free },
    ffmpeg: { isWell: await isFfmpegThere() },
    queue: { isWell: (queue?.oldestWaitsSeconds ?? 0) < LATE_SECONDS, ...(queue ?? NO_FIGURES) },
  };
  const canSave = checks.database.isWell && checks.dataFolder.isWell && checks.space.isWell;
  const isWell = canSave && checks.ffmpeg.isWell && checks.queue.isWell;
  return { status: isWell ? 'ok' : canSave ? 'degraded' : 'failing', checks };
}

interface QueueFigures {
  waiting: number;
  running: number;
  /** Of those that could be taken up, the one that has waited longest. */
  oldestWaitsSeconds: number | null;
}

const NO_FIGURES = { waiting: null, running: null, oldestWaitsSeconds: null };

export function queueFigures(db: ServerContext['db'], nowMs: number): QueueFigures {
  const found = db
    .select({
      waiting: sql<number>`coalesce(sum(${tasks.state} = 'queued'), 0)`,
      running: sql<number>`coalesce(sum(${tasks.state} = 'running'), 0)`,
      oldestMs: sql<
        number | null
      >`min(case when ${tasks.state} = 'queued' and coalesce(${tasks.notBeforeMs}, 0) <= ${nowMs} then max(${tasks.createdAtMs}, coalesce(${tasks.notBeforeMs}, 0)) end)`,
    })
    .from(tasks)
    .where(sql`${tasks.state} in ('queued', 'running')`)
    .get();
  const { waiting = 0, running = 0, oldestMs = null } = found ?? {};
  return { waiting, running, oldestWaitsSeconds: oldestMs === null ? null : Math.max(0, (nowMs - oldestMs) / 1000) };
}

function attempt<T>(work: () => T): T | undefined {
  try {
    return work();
  } catch {
    return undefined;
  }
}
