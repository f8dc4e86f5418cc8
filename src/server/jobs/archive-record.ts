/** A record, stems or a book that was written, as a job's ZIP describes it: out of the database, and into it again. */
import * as z from 'zod';
import { MOST_MEMBERS, type RecordSettings } from '@/core/lineup/line-up';
import type { assemblies } from '../db/schema';
import { assemblyOrderSchema, assemblyOutcomeSchema, type StoredAssemblyOrder } from '../db/stored/assembly';
import { newId } from '../ids';
import { bytes, fileName, place, sha256, timeMs } from './archive-fields';

const member = assemblyOrderSchema.shape.members.element;
const file = assemblyOutcomeSchema.shape.files.element;

/** Each of its files lies in the ZIP as `records/<folderName>/<fileName>`. Programmes are named by their places. */
export const writtenRecordSchema = z.object({
  folderName: fileName,
  createdAtMs: timeMs,
  writtenAtMs: timeMs,
  order: assemblyOrderSchema.omit({ mixId: true }).extend({
    mix: place.nullable(),
    sampled: place.nullable(),
    members: z
      .array(member.omit({ programmeId: true, deliveryId: true }).extend({ programme: place }))
      .min(1)
      .max(MOST_MEMBERS),
  }),
  outcome: assemblyOutcomeSchema.extend({
    files: z
      .array(file.extend({ fileName, sizeBytes: bytes, sha256 }))
      .min(1)
      .max(5000),
  }),
});
export type WrittenRecord = z.infer<typeof writtenRecordSchema>;

type AssemblyRow = typeof assemblies.$inferSelect;

/** @param placeOf of a programme among those of the job; -1 where it is not there */
export function describeRecord(row: AssemblyRow, placeOf: (programmeId: string) => number): WrittenRecord[] {
  const { folderName, createdAtMs, writtenAtMs, outcome } = row;
  const { mixId, members, ...order } = row.order;
  if (writtenAtMs === null || !outcome) return [];
  const known = (id: string | null | undefined) => (id == null || placeOf(id) < 0 ? null : placeOf(id));
  const described = members.map(({ programmeId, deliveryId: _, ...member }) => ({
    ...member,
    programme: placeOf(programmeId),
  }));
  const sampled = known(order.record.book.sample?.programmeId);
  return [
    {
      folderName,
      createdAtMs,
      writtenAtMs,
      outcome,
      order: { ...order, mix: known(mixId), sampled, members: described },
    },
  ];
}

/** Its row in a job whose programmes have these ids. */
export function recordRow(
  { order: { mix, sampled, members, ...order }, ...written }: WrittenRecord,
  { jobId, lineUpId, programmeIds }: { jobId: string; lineUpId: string; programmeIds: readonly string[] },
): typeof assemblies.$inferInsert {
  const idAt = (at: number | null) => (at === null ? null : (programmeIds[at] ?? null));
  const stored: StoredAssemblyOrder = {
    ...order,
    record: withSampleOf(order.record, idAt(sampled)),
    mixId: idAt(mix),
    // The file that a chapter was copied from is another row here; what was written stands for itself.
    members: members.map(({ programme, ...member }) => ({
      ...member,
      programmeId: idAt(programme) ?? '',
      deliveryId: null,
    })),
  };
  return { ...written, id: newId(), jobId, lineUpId, order: stored, state: 'written' };
}

/** Settings whose retail sample is of a programme of this job; without one where it is of none. */
export function withSampleOf(record: RecordSettings, programmeId: string | null): RecordSettings {
  const { sample } = record.book;
  return {
    ...record,
    book: { ...record.book, sample: sample && programmeId !== null ? { ...sample, programmeId } : null },
  };
}
