import * as z from 'zod';
import { passFields } from '@/core/outboard/pass';
import type { ServerContext } from '../context';
import { among } from '../db/among';
import { outboardPasses } from '../db/schema';
import { passReadingSchema } from '../db/stored/outboard-pass';
import { place, timeMs } from '../jobs/archive-fields';

/** A pass through outboard gear, as the manifest of a job has it: which programme was sent, and which is what came back. */
export const archivedPassSchema = z.object({
  programme: place,
  returned: place,
  number: z.int().positive().max(1_000_000),
  order: passFields.extend({ firstFrame: z.int().nonnegative() }),
  reading: passReadingSchema,
  recordedAtMs: timeMs,
});

export type ArchivedPass = z.infer<typeof archivedPassSchema>;

/** The passes of programmes that came back. */
export function describePasses({ db }: Pick<ServerContext, 'db'>, programmeIds: readonly string[]): ArchivedPass[] {
  const rows = db.select().from(outboardPasses).where(among(outboardPasses.programmeId, programmeIds)).all();
  return rows.flatMap(({ programmeId, passProgrammeId, number, order, reading, recordedAtMs }) => {
    const [programme, returned] = [programmeIds.indexOf(programmeId), programmeIds.indexOf(passProgrammeId ?? '')];
    return reading && returned >= 0 ? [{ programme, returned, number, order, reading, recordedAtMs }] : [];
  });
}

/** Whether each is of programmes that there are, and its number its own. */
export function arePasses(passes: readonly ArchivedPass[], programmes: number): boolean {
  const numbers = new Set(passes.map(({ programme, number }) => `${programme} ${number}`));
  return (
    numbers.size === passes.length &&
    passes.every(({ programme, returned }) => programme < programmes && returned < programmes)
  );
}
