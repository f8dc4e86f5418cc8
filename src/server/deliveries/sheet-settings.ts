import { and, eq, isNull } from 'drizzle-orm';
import * as z from 'zod';
import { deliveryFormatSchema } from '@/core/delivery/format';
import { levelModeSchema } from '@/core/delivery/row';
import { rowEdgesSchema } from '@/core/delivery/row-edges';
import { AppError } from '@/core/errors/app-error';
import { tagsSchema } from '@/core/file-formats/tags';
import { trimSchema } from '@/core/treatment/steps/trim';
import { gainOnly, treatmentSchema } from '@/core/treatment/treatment';
import type { ServerContext } from '../context';
import { among } from '../db/among';
import { deliveryRows, jobs, programmes } from '../db/schema';
import { jobOf } from '../jobs/jobs';
import { changeTreatment, currentTreatments } from '../treatments/treatments';
import { sheetSettingsMessages as messages } from './messages';

const id = z.string().min(1).max(64);

const rowSettings = z.object({
  id,
  specId: id,
  format: deliveryFormatSchema,
  levelMode: levelModeSchema,
  trim: trimSchema.nullable(),
  edges: rowEdgesSchema.nullable(),
  receiverId: id.nullable(),
});
const programmeSettings = z.object({ id, tags: tagsSchema.nullable(), treatment: treatmentSchema.nullable() });

/** Everything of a sheet that a person sets: its rows, what files say of themselves, treatments that templates set, and names. */
const sheetSettingsSchema = z.object({
  rows: z.array(rowSettings).max(20_000),
  programmes: z.array(programmeSettings).max(5000),
  nameTemplate: z.string().max(1000).nullable(),
});
export type SheetSettings = z.infer<typeof sheetSettingsSchema>;

/** What takes a change of a sheet back: what was different before it, and rows that were not there. */
export const sheetUndoSchema = sheetSettingsSchema.partial({ nameTemplate: true }).extend({
  added: z.array(id).max(20_000),
});
export type SheetUndo = z.infer<typeof sheetUndoSchema>;

/** The settings of a job's sheet, or of the rows of one of its programmes. Throws `not-found`. */
export function sheetSettings(server: ServerContext, jobId: string, programmeId: string | null): SheetSettings {
  const { db } = server;
  const { nameTemplate } = jobOf(server, jobId);
  const rows = db
    .select()
    .from(deliveryRows)
    .where(
      and(
        eq(deliveryRows.jobId, jobId),
        isNull(deliveryRows.removedAtMs),
        programmeId === null ? undefined : eq(deliveryRows.programmeId, programmeId),
      ),
    )
    .all();
  const own = db
    .select()
    .from(programmes)
    .where(
      and(
        eq(programmes.jobId, jobId),
        isNull(programmes.removedAtMs),
        programmeId === null ? undefined : eq(programmes.id, programmeId),
      ),
    )
    .all();
  const treatments = currentTreatments(server, own);
  return {
    nameTemplate,
    programmes: own.map(({ id: programmeId, tags }) => ({
      id: programmeId,
      tags,
      treatment: treatments.get(programmeId)?.treatment ?? null,
    })),
    rows: rows.map(({ id: rowId, specId, format, levelMode, trim, edges, receiverId }) => ({
      id: rowId,
      specId,
      format,
      levelMode,
      trim,
      edges,
      receiverId,
    })),
  };
}

/**
 * Takes a change of a job's sheet back: rows that it has removed are there again. Nothing that was written is touched.
 *
 * @throws AppError `not-found`, or `bad-request` where something is of another job
 */
export function undoSheet(server: ServerContext, jobId: string, { rows, added, ...before }: SheetUndo): void {
  const { db, clock } = server;
  jobOf(server, jobId);
  db.transaction(
    () => {
      const ids = [...rows.map((row) => row.id), ...added];
      const known = db
        .select({ jobId: deliveryRows.jobId })
        .from(deliveryRows)
        .where(among(deliveryRows.id, ids))
        .all();
      const programmeIds = before.programmes.map((own) => own.id);
      const owners = db
        .select({ jobId: programmes.jobId })
        .from(programmes)
        .where(among(programmes.id, programmeIds))
        .all();
      if ([...known, ...owners].some((own) => own.jobId !== jobId)) {
        throw new AppError('bad-request', { reason: messages.otherJob });
      }
      for (const { id: rowId, ...row } of rows) {
        db.update(deliveryRows)
          .set({ ...row, removedAtMs: null })
          .where(eq(deliveryRows.id, rowId))
          .run();
      }
      db.update(deliveryRows).set({ removedAtMs: clock.now() }).where(among(deliveryRows.id, added)).run();
      for (const { id: programmeId, tags, treatment } of before.programmes) {
        db.update(programmes).set({ tags }).where(eq(programmes.id, programmeId)).run();
        changeTreatment(server, programmeId, treatment ?? gainOnly(0));
      }
      if (before.nameTemplate !== undefined) {
        db.update(jobs).set({ nameTemplate: before.nameTemplate }).where(eq(jobs.id, jobId)).run();
      }
    },
    { behavior: 'immediate' },
  );
}
