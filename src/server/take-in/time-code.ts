/** The time code of programmes: that of their files, or one that a person has set. */
import { eq } from 'drizzle-orm';
import { type LabelledStart, startAtLabel } from '@/core/delivery/start-time-code';
import { AppError } from '@/core/errors/app-error';
import type { Metadata } from '@/formats/metadata';
import type { ServerContext } from '../context';
import { programmes } from '../db/schema';
import { metadataOf } from '../measure/measure-source';

/** What a programme's file carries beside its samples; a time code that was set by hand in place of its own. */
export type ProgrammeMetadata = Metadata & {
  /** Set by hand; null where the file's own holds. */
  setTimeCode: LabelledStart | null;
};

/** Throws `not-found`, or what is wrong with the file. */
export async function metadataOfProgramme(server: ServerContext, programmeId: string): Promise<ProgrammeMetadata> {
  const programme = server.db.select().from(programmes).where(eq(programmes.id, programmeId)).get();
  if (!programme) throw new AppError('not-found', { what: 'programme' });
  const { sourceSha256, timeCode } = programme;
  const own = await metadataOf(server, sourceSha256);
  return { ...own, timeCode: timeCode ? startAtLabel(timeCode) : own.timeCode, setTimeCode: timeCode };
}

/**
 * Sets the time code of a programme's first frame; null for that of its file.
 *
 * @throws AppError `not-found`
 */
export function setTimeCode({ db }: ServerContext, programmeId: string, timeCode: LabelledStart | null): void {
  const { changes } = db.update(programmes).set({ timeCode }).where(eq(programmes.id, programmeId)).run();
  if (changes === 0) throw new AppError('not-found', { what: 'programme' });
}
