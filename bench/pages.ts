import { eq } from 'drizzle-orm';
import { deliveryFormatSchema } from '@/core/delivery/format';
import { deliveryRows } from '@/server/db/schema';
import { factsOf, predictionKey } from '@/server/deliveries/predict';
import { addRows, predictionOf, removeRow } from '@/server/deliveries/rows';
import { viewSheet } from '@/server/deliveries/sheet';
import { writeRows } from '@/server/deliveries/write-row';
import { createJob } from '@/server/jobs/jobs';
import { namesOf } from '@/server/jobs/programme-list';
import { Server } from '@/server/server';
import { DataFolder } from '@/server/storage/data-folder';
import { takeIn } from '@/server/take-in/take-in';
import { addLike } from '../tests/fixtures/many-programmes';
import { stereo, tone } from '../tests/fixtures/signals';
import { wavOf } from '../tests/fixtures/wav';

/** A job of one programme, one of some, and one of many that are like it; and which programmes are in the first two. */
export async function makeJobs(
  data: string,
  { some, many }: { some: number; many: number },
): Promise<{ few: string; some: string; many: string; ids: { few: string[]; some: string[] } }> {
  const server = new Server(new DataFolder(data));
  const bytes = wavOf(stereo(tone([{ seconds: 4, levelDbfs: -20 }], 48_000)));
  const jobs: { jobId: string; programmeId: string }[] = [];
  for (const name of ['few', 'some', 'many']) {
    const jobId = createJob(server, name);
    const { programmeId } = await takeIn(server, { jobId, fileName: 'first.wav', body: [bytes] as never });
    jobs.push({ jobId, programmeId });
  }
  await server.runner.whenIdle();
  const [one, other, all] = jobs;
  if (!one || !other || !all) throw new Error('three jobs were made');
  addLike(server, other.programmeId, some - 1);
  addLike(server, all.programmeId, many - 1);
  const idsOf = ({ jobId }: { jobId: string }) => namesOf(server, jobId).map(({ id }) => id);
  const ids = { few: idsOf(one), some: idsOf(other) };
  await server.close();
  return { few: one.jobId, some: other.jobId, many: all.jobId, ids };
}

/**
 * How long the server takes for what is asked of all rows of a sheet, one for each of these programmes, in ms. All are like the
 * first, so that each has its forecast.
 */
export async function askOfSheet(
  data: string,
  jobId: string,
  programmeIds: readonly string[],
): Promise<{ asked: string; ms: number }[]> {
  const server = new Server(new DataFolder(data));
  // Nothing is worked on: what is measured is how soon it is answered.
  server.runner.stop();
  const format = deliveryFormatSchema.parse({ kind: 'wav' });
  const times: { asked: string; ms: number }[] = [];
  const timed = async <T>(asked: string, work: () => T | Promise<T>): Promise<T> => {
    const started = performance.now();
    const result = await work();
    times.push({ asked, ms: performance.now() - started });
    return result;
  };
  const rows = await timed('add rows', () =>
    addRows(server, programmeIds, { specId: 'ebu-r128', format, levelMode: { kind: 'as-set' } }),
  );
  const [first] = rows;
  if (!first) throw new Error('there is no programme');
  const prediction = await predictionOf(server, first);
  server.db.transaction((tx) => {
    for (const row of rows) {
      const key = predictionKey(row, factsOf(server, row));
      tx.update(deliveryRows).set({ prediction, predictionKey: key }).where(eq(deliveryRows.id, row.id)).run();
    }
  });
  await timed('see the sheet', () => viewSheet(server, jobId));
  const failures = await timed('write rows', () =>
    writeRows(
      server,
      rows.map(({ id }) => id),
    ),
  );
  if (failures.length > 0) throw new Error(failures[0]?.happened);
  const tasks = viewSheet(server, jobId).rows.flatMap(({ delivery }) => delivery?.task?.taskId ?? []);
  await timed('cancel all', () => server.runner.cancelEach(tasks));
  for (const { id } of rows) removeRow(server, id);
  await server.close();
  return times;
}

/** How long the server takes to start with so many sources, all of them measured, in ms. */
export async function startWith(data: string, sources: number): Promise<number> {
  const server = new Server(new DataFolder(data));
  const jobId = createJob(server, 'many sources');
  const bytes = wavOf(stereo(tone([{ seconds: 4, levelDbfs: -20 }], 48_000)));
  const { programmeId } = await takeIn(server, { jobId, fileName: 'first.wav', body: [bytes] as never });
  await server.runner.whenIdle();
  addLike(server, programmeId, sources - 1);
  await server.close();
  const startedMs = performance.now();
  const again = new Server(new DataFolder(data));
  const ms = performance.now() - startedMs;
  await again.close();
  return ms;
}
