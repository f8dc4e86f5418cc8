import { and, asc, eq, isNull, max, type SQL } from 'drizzle-orm';
import { DEFAULT_TEMPLATE } from '@/core/delivery/file-name';
import { type DeliveryFormat, deliveryFormatSchema } from '@/core/delivery/format';
import { type LevelMode, levelModeSchema, type SetRow } from '@/core/delivery/row';
import { missingEdges, type RowEdges } from '@/core/delivery/row-edges';
import { AppError } from '@/core/errors/app-error';
import { isLossy, kindOfFile } from '@/core/file-formats/file-formats';
import { NO_TAGS, type Tags } from '@/core/file-formats/tags';
import { assess } from '@/core/spec/assess';
import type { Trim } from '@/core/treatment/steps/trim';
import type { ServerContext } from '../context';
import { among } from '../db/among';
import { inParts } from '../db/in-parts';
import { deliveryRows, jobs, programmes, sources } from '../db/schema';
import type { RowPrediction } from '../db/stored/delivery';
import { newId } from '../ids';
import { jobOf } from '../jobs/jobs';
import { offeredReceiver } from '../receivers/receivers';
import { checkUnchanged } from '../seen';
import { specNamed } from '../specs/specs';
import { rowsMessages as messages } from './messages';
import { type DeliveryRow, factsOf, predict, predictionKey, type RowFacts } from './predict';

/** What a row of the sheet is asked to be. */
export interface NewRow {
  programmeId: string;
  specId: string;
  format: DeliveryFormat;
  levelMode: LevelMode;
  trim?: Trim | null | undefined;
  /** Where it is sent; null or absent where it is kept here. */
  receiverId?: string | null | undefined;
}

/** Adds a row to the sheet of its programme's job; nothing is written. Throws `not-found` or `unknown-spec`. */
export function addRow(server: ServerContext, { programmeId, ...row }: NewRow): DeliveryRow {
  return addRows(server, [programmeId], row)[0] as DeliveryRow;
}

/** Adds a like row for each of some programmes: for all of them, or for none. Throws as `addRow`. */
export function addRows(
  server: ServerContext,
  programmeIds: readonly string[],
  { specId, format, levelMode, trim = null, receiverId = null }: Omit<NewRow, 'programmeId'>,
): DeliveryRow[] {
  const { db, clock } = server;
  specNamed(server, specId);
  if (receiverId !== null) offeredReceiver(server, receiverId);
  const asked = { specId, trim, receiverId, levelMode: levelModeSchema.parse(levelMode) };
  return db.transaction(
    (tx) => {
      const found = tx.select().from(programmes).where(among(programmes.id, programmeIds)).all();
      const known = new Map(found.map((programme) => [programme.id, programme]));
      const last = tx
        .select({ jobId: deliveryRows.jobId, position: max(deliveryRows.position) })
        .from(deliveryRows)
        .where(
          among(
            deliveryRows.jobId,
            found.map(({ jobId }) => jobId),
          ),
        )
        .groupBy(deliveryRows.jobId)
        .all();
      const positions = new Map(last.map(({ jobId, position }) => [jobId, position ?? 0]));
      const added = programmeIds.map((programmeId) => {
        const programme = known.get(programmeId);
        if (!programme) throw new AppError('not-found', { what: 'programme' });
        const { jobId, sourceSha256 } = programme;
        const position = (positions.get(jobId) ?? 0) + 1;
        positions.set(jobId, position);
        return {
          ...asked,
          id: newId(),
          jobId,
          programmeId,
          format: formatFor(server, sourceSha256, format),
          position,
          createdAtMs: clock.now(),
        };
      });
      return inParts(added).flatMap((part) => tx.insert(deliveryRows).values(part).returning().all());
    },
    { behavior: 'immediate' },
  );
}

/** A format for a source: what is kept as it is has the source's own kind and depth. Throws `format-impossible`. */
function formatFor({ db }: ServerContext, sha256: string, asked: DeliveryFormat): DeliveryFormat {
  const format = deliveryFormatSchema.parse(asked);
  if (!format.isPassthrough) return format;
  const source = db.select().from(sources).where(eq(sources.sha256, sha256)).get();
  const kind = source && kindOfFile(source.format);
  if (!kind) {
    const problem = messages.cannotBeTagged;
    throw new AppError('format-impossible', { problem, nearest: 'WAV' });
  }
  const bitDepth = isLossy(kind) ? null : (source.format.bitDepth as DeliveryFormat['bitDepth']);
  const { hasLoudnessTags } = format;
  return deliveryFormatSchema.parse({ kind, bitDepth, hasLoudnessTags, isPassthrough: true, dither: null });
}

/** Throws `not-found`. */
export function rowOf({ db }: ServerContext, rowId: string): DeliveryRow {
  const row = db
    .select()
    .from(deliveryRows)
    .where(and(eq(deliveryRows.id, rowId), isNull(deliveryRows.removedAtMs)))
    .get();
  if (!row) throw new AppError('not-found', { what: 'row' });
  return row;
}

/** The rows of a job's sheet, in order. */
export function rowsOf(server: ServerContext, jobId: string): DeliveryRow[] {
  return rowsWhere(server, eq(deliveryRows.jobId, jobId));
}

/** Those of one programme. */
export function rowsOfProgramme(server: ServerContext, programmeId: string): DeliveryRow[] {
  return rowsWhere(server, eq(deliveryRows.programmeId, programmeId));
}

/** Those of some ids that are there. */
export function rowsAmong(server: ServerContext, rowIds: readonly string[]): DeliveryRow[] {
  return rowsWhere(server, among(deliveryRows.id, rowIds));
}

function rowsWhere({ db }: ServerContext, which: SQL): DeliveryRow[] {
  return db
    .select()
    .from(deliveryRows)
    .where(and(which, isNull(deliveryRows.removedAtMs)))
    .orderBy(asc(deliveryRows.position))
    .all();
}

type RowChange = Partial<Pick<NewRow, 'specId' | 'format' | 'levelMode' | 'receiverId'>>;

/** Changes what a row asks for. Throws `not-found`, `unknown-spec`, or `changed-elsewhere` where what is changed is not what was seen. */
export function changeRow(server: ServerContext, rowId: string, change: RowChange, seen?: RowChange): void {
  const row = rowOf(server, rowId);
  if (change.specId !== undefined) specNamed(server, change.specId);
  if (change.receiverId) offeredReceiver(server, change.receiverId);
  const programme = server.db.select().from(programmes).where(eq(programmes.id, row.programmeId)).get();
  checkUnchanged<RowChange>({ title: programme?.title ?? '', now: row, wanted: change, seen });
  const format = change.format && programme && formatFor(server, programme.sourceSha256, change.format);
  server.db
    .update(deliveryRows)
    .set(format ? { ...change, format } : change)
    .where(eq(deliveryRows.id, rowId))
    .run();
}

/** The edges that a row's spec asks for and its programme has not, in frames of the treated programme; undefined where all is there. */
export function missingEdgesOf(
  server: ServerContext,
  row: DeliveryRow,
  prediction: RowPrediction,
  how: { cutsLong?: boolean } = {},
  { source, treatment }: RowFacts = factsOf(server, row),
): RowEdges | undefined {
  if (row.format.isPassthrough) return undefined;
  const { spec, facts } = prediction;
  const treatedHz = treatment.resampleHz ?? source.format.sampleRateHz;
  // What is forecast is at the rate of the row's format; a row's edges are at its programme's.
  return missingEdges(spec, { ...facts, sampleRateHz: treatedHz }, treatment, source.format, how);
}

/**
 * Gives a row the edges that its spec asks for and its programme has not: room tone ahead and behind, in place of digital
 * silence too. The programme's own treatment stays as it is.
 *
 * @param how whether what is too long is cut
 * @returns whether anything was missing
 * @throws AppError as `predict`
 */
export async function addMissingEdges(
  server: ServerContext,
  rowId: string,
  how: { cutsLong?: boolean } = {},
): Promise<boolean> {
  return (await addMissingEdgesOf(server, [rowId], how)) === 1;
}

/** Gives each of some rows its missing edges, as `addMissingEdges`: all of them, or none. Returns of how many something was missing. */
export async function addMissingEdgesOf(
  server: ServerContext,
  rowIds: readonly string[],
  how: { cutsLong?: boolean } = {},
): Promise<number> {
  const changes: { rowId: string; edges: RowEdges }[] = [];
  for (const rowId of rowIds) {
    const row = rowOf(server, rowId);
    const missing = missingEdgesOf(server, row, await predictionOf(server, row), how);
    if (missing) changes.push({ rowId, edges: { ...row.edges, ...missing } });
  }
  server.db.transaction((tx) => {
    for (const { rowId, edges } of changes) {
      tx.update(deliveryRows).set({ edges }).where(eq(deliveryRows.id, rowId)).run();
    }
  });
  return changes.length;
}

/** Puts a row's edges back to those of its programme. */
export function clearEdges(server: ServerContext, rowId: string): void {
  rowOf(server, rowId);
  server.db.update(deliveryRows).set({ edges: null }).where(eq(deliveryRows.id, rowId)).run();
}

/** Takes a row off the sheet. What was written from it stays, and can be told from the list of files. */
export function removeRow({ db, clock }: ServerContext, rowId: string): void {
  db.update(deliveryRows).set({ removedAtMs: clock.now() }).where(eq(deliveryRows.id, rowId)).run();
}

/** What a row will be: as it was worked out before, unless something that it follows from has changed. */
export async function predictionOf(server: ServerContext, row: DeliveryRow): Promise<RowPrediction> {
  const known = knownPrediction(server, row);
  if (known) return known;
  const key = predictionKey(row, factsOf(server, row));
  const prediction = await predict(server, row);
  server.db.update(deliveryRows).set({ prediction, predictionKey: key }).where(eq(deliveryRows.id, row.id)).run();
  return prediction;
}

/** What was worked out before, if it still holds; judged with what its file is to say of itself now. */
export function knownPrediction(
  server: ServerContext,
  row: DeliveryRow,
  about: RowFacts = factsOf(server, row),
): RowPrediction | undefined {
  if (!row.prediction) return undefined;
  // Those of before engine 3 have no facts to be judged by.
  if (!row.prediction.facts || predictionKey(row, about) !== row.predictionKey) return undefined;
  const { facts, ...prediction } = row.prediction;
  const { tags } = about.programme;
  const now = { ...facts, tags: tags ?? NO_TAGS };
  return { ...prediction, facts: now, verdict: assess(prediction.spec, now) };
}

/** Two rows that ask for the same have the same. */
export function keyOf({ specId, format, levelMode, receiverId = null }: SetRow): string {
  return JSON.stringify({ specId, format, levelMode, receiverId });
}

/** A programme's tags. Throws `not-found`. */
export function setTags({ db }: ServerContext, programmeId: string, tags: Tags): void {
  const { changes } = db.update(programmes).set({ tags }).where(eq(programmes.id, programmeId)).run();
  if (changes === 0) throw new AppError('not-found', { what: 'programme' });
}

/** Some of a programme's tags; the others stay. Throws `not-found`, or `changed-elsewhere` where what is changed is not what was seen. */
export function changeTags(
  server: ServerContext,
  programmeId: string,
  change: Partial<Tags>,
  seen?: Partial<Tags>,
): void {
  const programme = server.db.select().from(programmes).where(eq(programmes.id, programmeId)).get();
  if (!programme) throw new AppError('not-found', { what: 'programme' });
  const now = programme.tags ?? NO_TAGS;
  checkUnchanged({ title: programme.title, now, wanted: change, seen });
  setTags(server, programmeId, { ...now, ...change });
}

/**
 * How a job's deliveries are named; null for the default.
 *
 * @param seen what whoever changes it saw
 * @throws AppError `not-found`, or `changed-elsewhere` where it is another by now
 */
export function setNameTemplate(
  server: ServerContext,
  jobId: string,
  nameTemplate: string | null,
  seen?: string,
): void {
  const { db } = server;
  const job = jobOf(server, jobId);
  const named = (template: string | null) => ({ template: template ?? DEFAULT_TEMPLATE });
  checkUnchanged({
    title: job.name,
    now: named(job.nameTemplate),
    wanted: named(nameTemplate),
    seen: seen === undefined ? undefined : { template: seen },
  });
  db.update(jobs).set({ nameTemplate }).where(eq(jobs.id, jobId)).run();
}
