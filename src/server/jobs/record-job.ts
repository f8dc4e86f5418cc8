import { eq } from 'drizzle-orm';
import type { ServerContext } from '../context';
import {
  assemblies,
  deliveries,
  deliveryRows,
  jobs,
  lineUpMembers,
  lineUps,
  markers,
  outboardPasses,
  programmes,
  treatments,
} from '../db/schema';
import { newId } from '../ids';
import type { Manifest } from './archive-manifest';
import { recordRow, withSampleOf } from './archive-record';
import { recordJobMessages as messages } from './messages';

type DeliveryRow = typeof deliveries.$inferInsert;
/** A delivery of it, but for the ids of what it belongs to. */
export type Brought = Pick<
  DeliveryRow,
  | 'sourceSha256'
  | 'predicted'
  | 'report'
  | 'verdict'
  | 'format'
  | 'treatment'
  | 'acceptedReason'
  | 'acceptedBy'
  | 'approvedBy'
  | 'approvedAtMs'
  | 'outcome'
>;

/** Writes a job that was brought in, all of it at once. */
export function recordJob(
  { db }: ServerContext,
  jobId: string,
  manifest: Manifest,
  brought: ReadonlyMap<string, Brought>,
): void {
  db.transaction(
    (tx) => {
      tx.insert(jobs)
        .values({ id: jobId, ...manifest.job })
        .run();
      let rowPosition = 0;
      const programmeIds: string[] = [];
      manifest.programmes.forEach((described, position) => {
        const {
          treatments: versions,
          deliveries: written,
          currentVersion,
          markers: kept,
          rows,
          ...programme
        } = described;
        const programmeId = newId();
        programmeIds.push(programmeId);
        tx.insert(programmes)
          .values({ ...programme, id: programmeId, jobId, position })
          .run();
        for (const marker of kept) {
          tx.insert(markers)
            .values({ ...marker, id: newId(), programmeId })
            .run();
        }
        const treatmentIds = new Map<number | null, string>();
        for (const version of versions) {
          const id = newId();
          treatmentIds.set(version.version, id);
          tx.insert(treatments)
            .values({ ...version, id, programmeId })
            .run();
        }
        tx.update(programmes)
          .set({ treatmentId: treatmentIds.get(currentVersion) ?? null })
          .where(eq(programmes.id, programmeId))
          .run();
        const rowIds = rows.map((row) => {
          const id = newId();
          const createdAtMs = manifest.job.createdAtMs;
          tx.insert(deliveryRows)
            .values({ ...row, id, jobId, programmeId, position: ++rowPosition, createdAtMs })
            .run();
          return id;
        });
        for (const { fileName, treatmentVersion, spec, row, createdAtMs, writtenAtMs } of written) {
          const measured = brought.get(fileName);
          const treatmentId = treatmentIds.get(treatmentVersion);
          if (!measured || !treatmentId) throw new RangeError(messages.notImported(fileName));
          tx.insert(deliveries)
            .values({
              id: newId(),
              jobId,
              programmeId,
              treatmentId,
              spec,
              fileName,
              rowId: row === null ? null : (rowIds[row] ?? null),
              createdAtMs,
              writtenAtMs,
              state: 'written',
              ...measured,
            })
            .run();
        }
      });
      for (const { members, mix, sampled, records, ...lineUp } of manifest.lineUps) {
        const lineUpId = newId();
        const idAt = (place: number | null) => (place === null ? null : (programmeIds[place] ?? null));
        const record = withSampleOf(lineUp.record, idAt(sampled));
        tx.insert(lineUps)
          .values({ ...lineUp, record, id: lineUpId, jobId, mixId: idAt(mix) })
          .run();
        members.forEach(({ programme, gapSeconds }, position) => {
          const programmeId = programmeIds[programme] as string;
          tx.insert(lineUpMembers).values({ lineUpId, programmeId, position, gapSeconds }).run();
        });
        for (const written of records)
          tx.insert(assemblies).values(recordRow(written, { jobId, lineUpId, programmeIds })).run();
      }
      for (const { programme, returned, ...pass } of manifest.passes) {
        const [programmeId, passProgrammeId] = [programmeIds[programme] as string, programmeIds[returned] as string];
        tx.insert(outboardPasses)
          .values({ ...pass, id: newId(), programmeId, passProgrammeId })
          .run();
      }
    },
    { behavior: 'immediate' },
  );
}
