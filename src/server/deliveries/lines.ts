import { and, asc, eq, isNull, max, type SQL } from 'drizzle-orm';
import { isLossy, kindOfFile } from '@/core/delivery/file-kinds';
import { type DeliveryFormat, deliveryFormatSchema } from '@/core/delivery/format';
import { type DeliveryWay, deliveryWaySchema, type SetLine } from '@/core/delivery/line';
import { missingEdges, type RowEdges } from '@/core/delivery/padding';
import { NO_TAGS, type Tags } from '@/core/delivery/tags';
import { AppError } from '@/core/errors/app-error';
import { assess } from '@/core/spec/assess';
import type { Keep } from '@/core/treatment/steps/keep';
import type { ServerContext } from '../context';
import { deliveryLines, deliverySets, jobs, type LinePrediction, programmes, sources } from '../db/schema';
import { newId } from '../ids';
import { listReceivers, offeredReceiver } from '../receivers/receivers';
import { specNamed } from '../specs/specs';
import { factsOf, type Line, predict, predictionKey } from './predict';

/** What a row of the sheet is asked to be. */
export interface NewLine {
  programmeId: string;
  specId: string;
  format: DeliveryFormat;
  way: DeliveryWay;
  keep?: Keep | null | undefined;
  /** Where it is sent; null or absent where it is kept here. */
  receiverId?: string | null | undefined;
}

/** Adds a row to the sheet of its programme's job; nothing is written. Throws `not-found` or `unknown-spec`. */
export function addLine(
  server: ServerContext,
  { programmeId, specId, format, way, keep = null, receiverId = null }: NewLine,
): Line {
  const { db, clock } = server;
  specNamed(server, specId);
  if (receiverId !== null) offeredReceiver(server, receiverId);
  return db.transaction(
    (tx) => {
      const programme = tx.select().from(programmes).where(eq(programmes.id, programmeId)).get();
      if (!programme) throw new AppError('not-found', { what: 'programme' });
      const { jobId } = programme;
      const last = tx
        .select({ position: max(deliveryLines.position) })
        .from(deliveryLines)
        .where(eq(deliveryLines.jobId, jobId))
        .get();
      return tx
        .insert(deliveryLines)
        .values({
          ...{ id: newId(), jobId, programmeId, specId, keep, receiverId },
          format: formatFor(server, programme.sourceSha256, format),
          way: deliveryWaySchema.parse(way),
          position: (last?.position ?? 0) + 1,
          createdAtMs: clock.now(),
        })
        .returning()
        .all()[0] as Line;
    },
    { behavior: 'immediate' },
  );
}

/** A format for a source: what is kept as it is has the source's own kind and depth. Throws `format-impossible`. */
function formatFor({ db }: ServerContext, sha256: string, asked: DeliveryFormat): DeliveryFormat {
  const format = deliveryFormatSchema.parse(asked);
  if (!format.isKept) return format;
  const source = db.select().from(sources).where(eq(sources.sha256, sha256)).get();
  const kind = source && kindOfFile(source.format);
  if (!kind) {
    const problem = 'its file is of a kind that is not written here, so its tags can not be either';
    throw new AppError('format-impossible', { problem, nearest: 'WAV' });
  }
  const bitDepth = isLossy(kind) ? null : (source.format.bitDepth as DeliveryFormat['bitDepth']);
  const { hasLoudnessTags } = format;
  return deliveryFormatSchema.parse({ kind, bitDepth, hasLoudnessTags, isKept: true, dither: null });
}

/** Throws `not-found`. */
export function lineOf({ db }: ServerContext, lineId: string): Line {
  const line = db
    .select()
    .from(deliveryLines)
    .where(and(eq(deliveryLines.id, lineId), isNull(deliveryLines.removedAtMs)))
    .get();
  if (!line) throw new AppError('not-found', { what: 'row' });
  return line;
}

/** The rows of a job's sheet, in order. */
export function linesOf(server: ServerContext, jobId: string): Line[] {
  return linesWhere(server, eq(deliveryLines.jobId, jobId));
}

/** Those of one programme. */
export function linesOfProgramme(server: ServerContext, programmeId: string): Line[] {
  return linesWhere(server, eq(deliveryLines.programmeId, programmeId));
}

function linesWhere({ db }: ServerContext, which: SQL): Line[] {
  return db
    .select()
    .from(deliveryLines)
    .where(and(which, isNull(deliveryLines.removedAtMs)))
    .orderBy(asc(deliveryLines.position))
    .all();
}

export function changeLine(
  server: ServerContext,
  lineId: string,
  change: Partial<Pick<NewLine, 'specId' | 'format' | 'way' | 'receiverId'>>,
): void {
  const line = lineOf(server, lineId);
  if (change.specId !== undefined) specNamed(server, change.specId);
  if (change.receiverId) offeredReceiver(server, change.receiverId);
  const programme = server.db.select().from(programmes).where(eq(programmes.id, line.programmeId)).get();
  const format = change.format && programme && formatFor(server, programme.sourceSha256, change.format);
  server.db
    .update(deliveryLines)
    .set(format ? { ...change, format } : change)
    .where(eq(deliveryLines.id, lineId))
    .run();
}

/** The edges that a row's spec asks for and its programme has not, in frames of the treated programme; undefined where all is there. */
export function missingEdgesOf(server: ServerContext, line: Line, prediction: LinePrediction): RowEdges | undefined {
  if (line.format.isKept) return undefined;
  const { spec, facts } = prediction;
  const { source, treatment } = factsOf(server, line);
  const treatedHz = treatment.resampleHz ?? source.format.sampleRateHz;
  // What is forecast is at the rate of the row's format; a row's edges are at its programme's.
  return missingEdges(spec, { ...facts, sampleRateHz: treatedHz }, treatment, source.format);
}

/**
 * Gives a row the edges that its spec asks for and its programme has not: room tone ahead and behind, in place of digital
 * silence too. The programme's own treatment stays as it is.
 *
 * @returns whether anything was missing
 * @throws AppError as `predict`
 */
export async function addMissingEdges(server: ServerContext, lineId: string): Promise<boolean> {
  const line = lineOf(server, lineId);
  const missing = missingEdgesOf(server, line, await predictionOf(server, line));
  if (!missing) return false;
  const edges = { ...line.edges, ...missing };
  server.db.update(deliveryLines).set({ edges }).where(eq(deliveryLines.id, lineId)).run();
  return true;
}

/** Puts a row's edges back to those of its programme. */
export function clearEdges(server: ServerContext, lineId: string): void {
  lineOf(server, lineId);
  server.db.update(deliveryLines).set({ edges: null }).where(eq(deliveryLines.id, lineId)).run();
}

/** Takes a row off the sheet. What was written from it stays, and can be told from the list of files. */
export function removeLine({ db, clock }: ServerContext, lineId: string): void {
  db.update(deliveryLines).set({ removedAtMs: clock.now() }).where(eq(deliveryLines.id, lineId)).run();
}

/** Puts a row back that was taken off, where it stood. */
export function restoreLine({ db }: ServerContext, lineId: string): void {
  db.update(deliveryLines).set({ removedAtMs: null }).where(eq(deliveryLines.id, lineId)).run();
}

/** What a row will be: as it was worked out before, unless something that it follows from has changed. */
export async function predictionOf(server: ServerContext, line: Line): Promise<LinePrediction> {
  const known = knownPrediction(server, line);
  if (known) return known;
  const key = predictionKey(server, line);
  const prediction = await predict(server, line);
  server.db.update(deliveryLines).set({ prediction, predictionKey: key }).where(eq(deliveryLines.id, line.id)).run();
  return prediction;
}

/** What was worked out before, if it still holds; judged with what its file is to say of itself now. */
export function knownPrediction(server: ServerContext, line: Line): LinePrediction | undefined {
  if (!line.prediction) return undefined;
  // Those of before engine 3 have no facts to be judged by.
  if (!line.prediction.facts || predictionKey(server, line) !== line.predictionKey) return undefined;
  const { facts, ...prediction } = line.prediction;
  const { tags } = factsOf(server, line).programme;
  const now = { ...facts, tags: tags ?? NO_TAGS };
  return { ...prediction, facts: now, verdict: assess(prediction.spec, now) };
}

/** Two rows that ask for the same have the same. */
export function keyOf({ specId, format, way, receiverId = null }: SetLine): string {
  return JSON.stringify({ specId, format, way, receiverId });
}

export interface SetView {
  id: string;
  name: string;
  lines: SetLine[];
}

export function listSets({ db }: ServerContext): SetView[] {
  return db.select().from(deliverySets).orderBy(asc(deliverySets.name)).all();
}

/** Keeps the rows of a programme as a set, in place of one of the same name. */
export function saveSet(server: ServerContext, name: string, programmeId: string): void {
  const { db, clock } = server;
  const lines = linesOfProgramme(server, programmeId)
    .filter(({ keep }) => keep === null)
    .map(({ specId, format, way, receiverId }) => ({ specId, format, way, receiverId }));
  if (lines.length === 0) throw new AppError('bad-request', { reason: 'this programme has no rows to keep as a set' });
  db.transaction(
    (tx) => {
      tx.delete(deliverySets).where(eq(deliverySets.name, name)).run();
      tx.insert(deliverySets).values({ id: newId(), name, lines, createdAtMs: clock.now() }).run();
    },
    { behavior: 'immediate' },
  );
}

export function removeSet({ db }: ServerContext, setId: string): void {
  db.delete(deliverySets).where(eq(deliverySets.id, setId)).run();
}

/** Adds the rows of a set for each of some programmes, but for those that are there already. */
export function addSet(server: ServerContext, setId: string, programmeIds: readonly string[]): number {
  const set = server.db.select().from(deliverySets).where(eq(deliverySets.id, setId)).get();
  if (!set) throw new AppError('not-found', { what: 'set' });
  const receivers = new Set(listReceivers(server).map(({ id }) => id));
  let added = 0;
  for (const programmeId of programmeIds) {
    const there = linesOfProgramme(server, programmeId).map(keyOf);
    for (const line of set.lines) {
      if (there.includes(keyOf(line))) continue;
      // A receiver that was taken away since leaves its rows here.
      const receiverId = receivers.has(line.receiverId ?? '') ? line.receiverId : null;
      addLine(server, { programmeId, ...line, receiverId });
      added++;
    }
  }
  return added;
}

/** What a programme's files say of themselves. Throws `not-found`. */
export function setTags({ db }: ServerContext, programmeId: string, tags: Tags): void {
  const { changes } = db.update(programmes).set({ tags }).where(eq(programmes.id, programmeId)).run();
  if (changes === 0) throw new AppError('not-found', { what: 'programme' });
}

/** How a job's deliveries are named; null for the usual way. */
export function setNameTemplate({ db }: ServerContext, jobId: string, nameTemplate: string | null): void {
  db.update(jobs).set({ nameTemplate }).where(eq(jobs.id, jobId)).run();
}
