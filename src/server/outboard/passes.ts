import { rm } from 'node:fs/promises';
import { and, asc, desc, eq, isNull } from 'drizzle-orm';
import { MOST_DELAY_SECONDS } from '@/core/outboard/pass';
import type { Treatment } from '@/core/treatment/treatment';
import type { AudioFormat } from '@/formats/audio-format';
import type { PassReading } from '@/workers/protocol';
import type { ServerContext } from '../context';
import { among } from '../db/among';
import { outboardPasses, programmes, sources } from '../db/schema';
import type { PassOrder } from '../db/stored/outboard-pass';
import { programmeOf } from '../measure/limiting';
import { takeInOwn } from '../take-in/take-in';
import type { TaskContext } from '../tasks/runner';
import { type TaskView, taskOrNull } from '../tasks/view';
import { passMessages as messages } from './messages';

/** A pass as pages see it. */
export interface PassView {
  id: string;
  /** Among those of its programme, from 1 on. */
  number: number;
  sentName: string;
  treatment: Treatment;
  sampleRateHz: number;
  /** Null until it is found when it came back. */
  reading: PassReading | null;
  /** What came back, while it is in the job; null until it is. */
  returned: {
    programmeId: string;
    sha256: string;
    format: AudioFormat;
    layoutId: string | null;
    integratedLufs: number | null;
  } | null;
  task: TaskView | null;
}

/** Notes a pass that was recorded whole, and has it aligned. */
export function recordPass(server: ServerContext, id: string, programmeId: string, order: PassOrder): void {
  const { db, queue, runner, clock } = server;
  db.transaction(
    (tx) => {
      const last = tx
        .select({ number: outboardPasses.number })
        .from(outboardPasses)
        .where(eq(outboardPasses.programmeId, programmeId))
        .orderBy(desc(outboardPasses.number))
        .limit(1)
        .all();
      const number = (last[0]?.number ?? 0) + 1;
      tx.insert(outboardPasses).values({ id, programmeId, number, order, recordedAtMs: clock.now() }).run();
      queue.enqueue('align', id);
    },
    { behavior: 'immediate' },
  );
  runner.wake();
}

/** Finds when a pass came back, and takes it in as a programme beside the one that was sent. Done again after a crash, it ends in the same state. */
export async function performAlign(server: ServerContext, passId: string, context: TaskContext): Promise<void> {
  const { db, folder, pool } = server;
  const [row] = db.select().from(outboardPasses).where(eq(outboardPasses.id, passId)).all();
  if (!row || row.passProgrammeId !== null) return;
  const { number, order } = row;
  const programme = programmeOf(server, row.programmeId);
  const [source] = db.select().from(sources).where(eq(sources.sha256, programme.sourceSha256)).all();
  const fileName = messages.fileName(stemOf(programme.fileName), number);
  const alignedPath = folder.alignedPass(passId);
  await rm(alignedPath, { force: true });
  try {
    const { channels, firstFrame, frames } = order;
    const reading = await pool.run(
      {
        kind: 'align',
        firstFrame,
        frames,
        path: folder.pass(passId),
        fileName,
        mostDelaySeconds: MOST_DELAY_SECONDS,
        channelMask: channels === source?.format.channels ? source.format.channelMask : 0,
        outputPath: alignedPath,
      },
      context,
    );
    const { jobId, title } = programme;
    const taken = await takeInOwn(server, { jobId, fileName, title: messages.title(title, number) }, alignedPath);
    db.update(outboardPasses)
      .set({ reading, passProgrammeId: taken.programmeId })
      .where(eq(outboardPasses.id, passId))
      .run();
  } finally {
    await rm(alignedPath, { force: true });
  }
  await rm(folder.pass(passId), { force: true });
}

/** Forgets a pass; what came back stays in its job. Of one that is gone already nothing is left to do. */
export async function forgetPass({ db, folder, queue, runner }: ServerContext, passId: string): Promise<void> {
  const task = queue.latest('align', [passId]).get(passId);
  if (task) runner.cancel(task.id);
  const { changes } = db.delete(outboardPasses).where(eq(outboardPasses.id, passId)).run();
  // What is no pass names no file either.
  if (changes > 0) await rm(folder.pass(passId), { force: true });
}

/** The passes of programmes, the first first. */
export function viewPasses(server: ServerContext, programmeIds: readonly string[]): Map<string, PassView[]> {
  const { db, queue } = server;
  const rows = db
    .select()
    .from(outboardPasses)
    .leftJoin(programmes, and(eq(programmes.id, outboardPasses.passProgrammeId), isNull(programmes.removedAtMs)))
    .leftJoin(sources, eq(sources.sha256, programmes.sourceSha256))
    .where(among(outboardPasses.programmeId, programmeIds))
    .orderBy(asc(outboardPasses.number))
    .all();
  const tasks = queue.latest(
    'align',
    rows.map(({ outboard_passes: { id } }) => id),
  );
  const views = new Map<string, PassView[]>();
  for (const { outboard_passes: pass, programmes: returned, sources: source } of rows) {
    const { id, number, order, reading, programmeId, passProgrammeId } = pass;
    // What came back was taken out of the job.
    if (passProgrammeId !== null && !returned) continue;
    const view: PassView = {
      id,
      number,
      sentName: order.sentName,
      treatment: order.treatment,
      sampleRateHz: order.sampleRateHz,
      reading,
      returned: returned && source && viewReturned(server, returned.id, source),
      task: taskOrNull(tasks.get(id)),
    };
    views.set(programmeId, [...(views.get(programmeId) ?? []), view]);
  }
  return views;
}

function viewReturned(server: ServerContext, programmeId: string, source: typeof sources.$inferSelect) {
  const { sha256, layoutId } = source;
  const report = server.sourceReport(sha256);
  const format = report?.format ?? source.format;
  return { programmeId, sha256, format, layoutId, integratedLufs: report?.readings.integratedLufs ?? null };
}

function stemOf(fileName: string): string {
  return fileName.replace(/\.[^.]+$/, '');
}
