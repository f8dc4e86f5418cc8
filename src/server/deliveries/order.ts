import { eq, sql } from 'drizzle-orm';
import { DEFAULT_TEMPLATE, fileStem } from '@/core/delivery/file-name';
import { AppError } from '@/core/errors/app-error';
import { FILE_FORMATS } from '@/core/file-formats/file-formats';
import { gainOnly } from '@/core/treatment/treatment';
import type { ServerContext } from '../context';
import { among } from '../db/among';
import { inParts } from '../db/in-parts';
import { deliveries, jobs } from '../db/schema';
import type { RowPrediction } from '../db/stored/delivery';
import { newId } from '../ids';
import { currentTreatment, firstVersions, versionFor } from '../treatments/treatments';
import { nameFields, trackNumbers } from './names';
import type { DeliveryRow, RowFacts } from './predict';

/** A row of the sheet to be written as it is predicted. */
export interface Order {
  row: DeliveryRow;
  about: RowFacts;
  prediction: RowPrediction;
  /** A file that misses, thrown away once this one is there; null of most. */
  replacesId: string | null;
}

/** The newest delivery of each of some rows, whatever has become of it. */
export function newestOf(
  { db }: ServerContext,
  rowIds: readonly string[],
): Map<string, Pick<typeof deliveries.$inferSelect, 'id' | 'state'>> {
  const found = db
    .select({ id: deliveries.id, state: deliveries.state, rowId: deliveries.rowId })
    .from(deliveries)
    .where(among(deliveries.rowId, rowIds))
    .orderBy(deliveries.createdAtMs, sql`rowid`)
    .all();
  return new Map(found.map(({ rowId, ...own }) => [rowId ?? '', own]));
}

/**
 * Deliveries, their names and the tasks that write them: all of them, or none.
 *
 * @returns their ids, in the order of what was asked
 */
export function orderDeliveries(server: ServerContext, orders: readonly Order[]): string[] {
  const { db, queue, clock } = server;
  return db.transaction(
    (tx) => {
      const versions = versionsOf(server, orders);
      const jobIds = [...new Set(orders.map(({ row }) => row.jobId))];
      const known = new Map(
        jobIds.map((jobId) => {
          const job = tx.select().from(jobs).where(eq(jobs.id, jobId)).get();
          if (!job) throw new AppError('not-found', { what: 'job' });
          return [jobId, { job, tracks: trackNumbers(server, jobId), taken: takenNames(server, jobId) }];
        }),
      );
      const rows = orders.map(({ row, about: { programme }, prediction, replacesId }, i) => {
        const { job, tracks, taken } = known.get(row.jobId) as NonNullable<ReturnType<typeof known.get>>;
        const { id: treatmentId, version } = versions[i] as Version;
        const { format, treatment, landing } = prediction;
        const named = { title: programme.title, job: job.name, track: tracks.get(programme.id) ?? 1 };
        const fields = nameFields(named, row.specId, format, version);
        return {
          id: newId(),
          jobId: job.id,
          programmeId: programme.id,
          treatmentId,
          sourceSha256: programme.sourceSha256,
          rowId: row.id,
          format,
          treatment,
          landing,
          spec: prediction.spec,
          predicted: prediction.readings,
          state: 'open' as const,
          replacesId,
          fileName: freeName(
            taken,
            fileStem(job.nameTemplate ?? DEFAULT_TEMPLATE, fields),
            FILE_FORMATS[format.kind].extensions[0],
          ),
          createdAtMs: clock.now(),
        };
      });
      for (const part of inParts(rows)) tx.insert(deliveries).values(part).run();
      const ids = rows.map(({ id }) => id);
      queue.enqueueNew('render', ids);
      return ids;
    },
    { behavior: 'immediate' },
  );
}

type Version = NonNullable<RowFacts['version']>;

/** The version of its programme's treatment that each is written from. */
function versionsOf(server: ServerContext, orders: readonly Order[]): Version[] {
  const unset = orders.flatMap(({ about: { programme, version } }) => (version === null ? [programme.id] : []));
  const first = firstVersions(server, [...new Set(unset)]);
  return orders.map(({ row: { trim }, about: { programme, version } }) => {
    if (!trim) return version ?? (first.get(programme.id) as Version);
    const { treatment } = currentTreatment(server, programme.id) ?? { treatment: gainOnly(0) };
    return versionFor(server, programme.id, { ...treatment, trim });
  });
}

function takenNames({ db }: ServerContext, jobId: string): Set<string> {
  const named = db.select({ fileName: deliveries.fileName }).from(deliveries).where(eq(deliveries.jobId, jobId)).all();
  return new Set(named.map(({ fileName }) => fileName));
}

/** A name that is free in its job, numbered on where that is taken; it is taken from now on. */
function freeName(taken: Set<string>, stem: string, extension: string): string {
  let fileName = `${stem}.${extension}`;
  for (let n = 2; taken.has(fileName); n++) fileName = `${stem}-${n}.${extension}`;
  taken.add(fileName);
  return fileName;
}
