import { and, desc, eq } from 'drizzle-orm';
import * as z from 'zod';
import { deliveryFormatSchema, describeFormat } from '@/core/delivery/format';
import { AppError } from '@/core/errors/app-error';
import { NO_TAGS } from '@/core/file-formats/tags';
import { ASSEMBLY_FORMS, type AssemblyForm, type RecordForm } from '@/core/lineup/assembly';
import { chapterTitles } from '@/core/lineup/book';
import { assessCd } from '@/core/lineup/cd';
import { planRecord, type RecordPlan } from '@/core/lineup/record';
import { plainName } from '@/core/lineup/track-name';
import type { TrackText } from '@/core/lineup/track-sheet';
import type { Assessment } from '@/core/spec/assessment';
import { gainOnly } from '@/core/treatment/treatment';
import type { ServerContext } from '../context';
import { among } from '../db/among';
import { assemblies, programmes } from '../db/schema';
import type { AssemblyOutcome, StoredAssemblyOrder } from '../db/stored/assembly';
import { newId } from '../ids';
import { specInUse } from '../jobs/jobs';
import { programmesWhere } from '../jobs/programme-view';
import { lineUpOf } from '../line-ups/line-ups';
import { comparableStems } from '../stems/stems';
import { type TaskView, taskOrNull } from '../tasks/view';
import { currentTreatment } from '../treatments/treatments';
import { deliveredChapters } from './book';
import { filmOrder } from './film';
import { planStemsOf } from './write-stems';

/** How a line-up is to be written. */
export const assemblyWish = z.object({
  form: z.enum(ASSEMBLY_FORMS),
  format: deliveryFormatSchema,
  specId: z.string().min(1).max(64).nullable().default(null),
});
export type AssemblyWish = z.input<typeof assemblyWish>;

/** A line-up written as one, or on its way to be. */
export interface AssemblyView {
  id: string;
  lineUpId: string;
  folderName: string;
  form: AssemblyForm;
  formatText: string;
  createdAtMs: number;
  writtenAtMs: number | null;
  state: (typeof assemblies.$inferSelect)['state'];
  outcome: AssemblyOutcome | null;
  /** What writes it, while that is not done. */
  task: TaskView | null;
}

/** What would be written, before it is. */
export interface AssemblyPreview {
  formatText: string;
  /** Of each track: where players begin it, and where the pause ahead of it begins, in frames. */
  tracks: { startFrame: number; pauseFrame: number | null }[];
  frames: number;
  sampleRateHz: number;
  /** What a CD asks; null where it is not for one. */
  cd: Assessment[] | null;
}

/**
 * Has a line-up written with its current settings. However many ask at once, it is written once at a time.
 *
 * @returns the id; where one of this line-up is being written already, that
 * @throws AppError `not-found`, `not-measured`, or as `planRecord`
 */
export function orderAssembly(server: ServerContext, lineUpId: string, input: AssemblyWish): string {
  const { db, queue, runner, clock } = server;
  const { jobId } = lineUpOf(server, lineUpId);
  const order = orderOf(server, lineUpId, assemblyWish.parse(input));
  describeOrder(server, order);
  const id = db.transaction(
    () => {
      const open = db
        .select({ id: assemblies.id })
        .from(assemblies)
        .where(and(eq(assemblies.lineUpId, lineUpId), eq(assemblies.state, 'open')))
        .get();
      if (open) return open.id;
      const assemblyId = newId();
      db.insert(assemblies)
        .values({
          id: assemblyId,
          jobId,
          lineUpId,
          folderName: freeName(server, jobId, plainName(order.name)),
          order,
          state: 'open',
          createdAtMs: clock.now(),
        })
        .run();
      queue.enqueue('assemble', assemblyId);
      return assemblyId;
    },
    { behavior: 'immediate' },
  );
  runner.wake();
  return id;
}

/** What would be written of a line-up as a record with its current settings. Throws as `orderAssembly`. */
export function previewAssembly(
  server: ServerContext,
  lineUpId: string,
  input: AssemblyWish & { form: RecordForm },
): AssemblyPreview {
  const order = orderOf(server, lineUpId, assemblyWish.parse(input));
  const plan = planOf(server, order);
  const { tracks, frames, sampleRateHz } = plan.assembly;
  return {
    formatText: describeFormat(plan.format),
    tracks: tracks.map(({ markFrame, pauseFrame }) => ({ startFrame: markFrame, pauseFrame })),
    frames,
    sampleRateHz,
    cd: cdOf(order, plan),
  };
}

/** Everything that it is written from, as it is now. */
function orderOf(
  server: ServerContext,
  lineUpId: string,
  { form, format, specId }: z.infer<typeof assemblyWish>,
): StoredAssemblyOrder {
  const lineUp = lineUpOf(server, lineUpId);
  const spec = specInUse(server, lineUp.jobId, specId ?? lineUp.specId);
  if (form === 'film') return { ...filmOrder(server, lineUpId), format, spec };
  const rows = memberRows(
    server,
    lineUp.members.map(({ programmeId }) => programmeId),
  );
  const delivered = form === 'book' ? deliveredChapters(server, lineUp, spec.id) : null;
  const members = lineUp.members.flatMap(({ programmeId, gapSeconds }) => {
    const row = rows.get(programmeId)?.programmes;
    if (!row) return [];
    const { sourceSha256, fileName, title, tags } = row;
    if (!server.sourceReport(sourceSha256)) throw new AppError('not-measured', { title });
    const chapter = delivered?.get(programmeId);
    const treatment = chapter?.treatment ?? currentTreatment(server, programmeId)?.treatment ?? gainOnly(0);
    const deliveryId = chapter?.id ?? null;
    const said = tags ?? NO_TAGS;
    return [{ programmeId, sourceSha256, fileName, title, gapSeconds, treatment, tags: said, deliveryId, tracks: [] }];
  });
  if (members.length === 0) throw new AppError('not-found', { what: 'programme' });
  const mixId = form === 'stems' ? comparableStems(server, lineUpId).mix.programmeId : null;
  const covers = members.flatMap(({ programmeId }) => rows.get(programmeId)?.programmes.cover ?? []);
  const cover = form === 'stems' ? null : (covers[0] ?? null);
  const { name, kind } = lineUp;
  // Its chapters are limited as their files are, each by itself.
  const record = form === 'book' ? { ...lineUp.record, limit: null } : lineUp.record;
  return { name, isBook: kind === 'book', form, format, spec, record, cover, mixId, film: null, members };
}

/** What it will be written as. Throws as what plans it. */
function describeOrder(server: ServerContext, order: StoredAssemblyOrder): string {
  if (order.film) return order.film.fileName;
  return describeFormat((order.form === 'stems' ? planStemsOf : planOf)(server, order).format);
}

/** What a stored order of a record comes to, from its sources as they are known. */
export function planOf(server: ServerContext, { members, format, record }: StoredAssemblyOrder): RecordPlan {
  const rows = memberRows(
    server,
    members.map(({ programmeId }) => programmeId),
  );
  const wanted = members.map(({ programmeId, title, gapSeconds, treatment }) => {
    const source = rows.get(programmeId)?.sources;
    if (!source) throw new AppError('not-found', { what: 'programme' });
    return { title, gapSeconds, treatment, source: source.format };
  });
  return planRecord(wanted, format, record.limit);
}

function memberRows(server: ServerContext, ids: readonly string[]) {
  return new Map(programmesWhere(server, among(programmes.id, ids)).map((row) => [row.programmes.id, row]));
}

/** What each track says of itself. */
export function trackTexts({ form, record, members }: StoredAssemblyOrder): TrackText[] {
  const own = members.map(({ title, tags }) => tags.title || title);
  const titles = form === 'book' ? chapterTitles(record.book, own) : own;
  return members.map(({ tags: { artist, isrc } }, i) => ({ title: titles[i] ?? '', artist, isrc }));
}

/** What a CD asks of a record; null where it is not for one. */
export function cdOf(order: StoredAssemblyOrder, { assembly, format }: RecordPlan): Assessment[] | null {
  const { isForCd, pregapSeconds } = order.record;
  const isrcs = trackTexts(order).map(({ isrc }) => isrc);
  const { bitDepth, channels } = format;
  return isForCd ? assessCd({ assembly, bitDepth, channels, pregapSeconds, isrcs }) : null;
}

/** What was written of a line-up, and what is being written, the newest first. Throws `not-found`. */
export function listAssemblies(server: ServerContext, lineUpId: string): AssemblyView[] {
  lineUpOf(server, lineUpId);
  const rows = server.db
    .select()
    .from(assemblies)
    .where(eq(assemblies.lineUpId, lineUpId))
    .orderBy(desc(assemblies.createdAtMs))
    .all()
    .filter(({ state }) => state !== 'discarded');
  const tasks = server.queue.latest(
    'assemble',
    rows.map(({ id }) => id),
  );
  return rows.map(({ id, folderName, order, createdAtMs, writtenAtMs, state, outcome }) => ({
    id,
    lineUpId,
    folderName,
    form: order.form,
    formatText: outcome && !order.film ? describeFormat(outcome.format) : describeOrder(server, order),
    createdAtMs,
    writtenAtMs,
    state,
    outcome,
    task: state === 'written' ? null : taskOrNull(tasks.get(id)),
  }));
}

/** A name that is free among the records of its job, numbered on where that is taken. */
function freeName({ db }: ServerContext, jobId: string, stem: string): string {
  const taken = new Set(
    db
      .select({ folderName: assemblies.folderName })
      .from(assemblies)
      .where(eq(assemblies.jobId, jobId))
      .all()
      .map((row) => row.folderName.toLowerCase()),
  );
  let name = stem;
  for (let n = 2; taken.has(name.toLowerCase()); n++) name = `${stem} ${n}`;
  return name;
}
