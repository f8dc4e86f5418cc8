import { and, eq, isNull } from 'drizzle-orm';
import * as z from 'zod';
import { rowEdgesSchema } from '@/core/delivery/row-edges';
import { AppError } from '@/core/errors/app-error';
import type { GlanceLevels } from '@/core/loudness/readings';
import { type Misfit, refitRange, refitTreatment, type SourceShape } from '@/core/treatment/refit';
import { trimSchema } from '@/core/treatment/steps/trim';
import { gainOnly, treatmentSchema } from '@/core/treatment/treatment';
import type { AudioFormat } from '@/formats/audio-format';
import type { ServerContext } from '../context';
import { deliveryRows, markers, programmes, sources, treatmentEdits, treatments } from '../db/schema';
import { currentTreatment, saveTreatment } from '../treatments/treatments';
import { replaceMessages as messages } from './messages';
import { levelsOf, namesOf, type ProgrammeName } from './programme-list';

/** Something that is set at a place which the new version does not have. */
interface MisfitView {
  /** What it is, with its name. */
  text: string;
  misfit: Misfit;
}

/** A file as it is told apart from another version of it. */
interface VersionView {
  fileName: string;
  format: AudioFormat;
  levels: GlanceLevels;
}

/** What is different once a new version has taken the place of a programme's source. */
export interface ReplacementView {
  before: VersionView;
  after: VersionView;
  misfits: MisfitView[];
}

/** Everything of a programme that a replacement may change, so that it can be taken back. */
export const replacedSettings = z.object({
  treatment: treatmentSchema.nullable(),
  markers: z
    .array(
      z.object({
        id: z.string().max(64),
        startFrame: z.int().nonnegative(),
        endFrame: z.int().positive().nullable(),
        name: z.string().max(1000),
        createdAtMs: z.number(),
      }),
    )
    .max(100_000),
  rows: z
    .array(z.object({ id: z.string().max(64), trim: trimSchema.nullable(), edges: rowEdgesSchema.nullable() }))
    .max(10_000),
});
export type ReplacedSettings = z.infer<typeof replacedSettings>;

/**
 * What would be different if one programme took the place of another. Nothing is changed.
 *
 * @throws AppError as `replaceSource`
 */
export function previewReplacement(server: ServerContext, programmeId: string, byId: string): ReplacementView {
  const [before, after] = [versionOf(server, programmeId), versionOf(server, byId)];
  checkPair(before, after);
  return { before: before.view, after: after.view, misfits: plan(server, before, after).misfits };
}

/**
 * Gives a programme the source of another, which is taken out of the job with the old one: titles, treatments, markers, rows and places in
 * line-ups stay. What was written before is known to be of the old source.
 *
 * @returns what was set before, for whoever takes it back
 * @throws AppError `not-found`, `not-measured`, or `bad-request` where they are not two programmes of one job
 */
export function replaceSource(server: ServerContext, programmeId: string, byId: string): ReplacedSettings {
  const [before, after] = [versionOf(server, programmeId), versionOf(server, byId)];
  checkPair(before, after);
  const planned = plan(server, before, after);
  return server.db.transaction(
    (tx) => {
      const settings = settingsOf(server, programmeId);
      swapSources(server, before.programme, after.programme);
      tx.update(programmes).set({ removedAtMs: server.clock.now() }).where(eq(programmes.id, byId)).run();
      putSettings(server, programmeId, planned.settings, before.shape.sampleRateHz !== after.shape.sampleRateHz);
      return settings;
    },
    { behavior: 'immediate' },
  );
}

/** Takes a replacement back: both programmes are in the job again, as they were. Throws as `replaceSource`. */
export function undoReplacement(
  server: ServerContext,
  programmeId: string,
  byId: string,
  settings: ReplacedSettings,
): void {
  const [now, old] = [versionOf(server, programmeId), versionOf(server, byId)];
  checkPair(now, old);
  server.db.transaction(
    (tx) => {
      swapSources(server, now.programme, old.programme);
      tx.update(programmes).set({ removedAtMs: null }).where(eq(programmes.id, byId)).run();
      putSettings(server, programmeId, settings, now.shape.sampleRateHz !== old.shape.sampleRateHz);
    },
    { behavior: 'immediate' },
  );
}

/** Programmes that may be a new version of one: those whose titles begin most alike come first, of these the newest. */
export function likelyVersions(server: ServerContext, jobId: string, programmeId: string): ProgrammeName[] {
  const names = namesOf(server, jobId);
  const title = names.find(({ id }) => id === programmeId)?.title.toLowerCase() ?? '';
  const alike = (other: string) => {
    const text = other.toLowerCase();
    let length = 0;
    while (length < title.length && title[length] === text[length]) length++;
    return length;
  };
  return names
    .filter(({ id }) => id !== programmeId)
    .reverse()
    .sort((a, b) => alike(b.title) - alike(a.title));
}

function versionOf(server: ServerContext, programmeId: string) {
  const found = server.db
    .select()
    .from(programmes)
    .innerJoin(sources, eq(sources.sha256, programmes.sourceSha256))
    .where(eq(programmes.id, programmeId))
    .get();
  if (!found) throw new AppError('not-found', { what: 'programme' });
  const { programmes: programme, sources: source } = found;
  const report = server.sourceReport(source.sha256);
  if (!report) throw new AppError('not-measured', { title: programme.title });
  const { format, readings } = report;
  const { sampleRateHz, frames, channels } = format;
  const shape: SourceShape = { sampleRateHz, frames, channels };
  return { programme, shape, view: { fileName: programme.fileName, format, levels: levelsOf(readings) } };
}
type Version = ReturnType<typeof versionOf>;

function checkPair({ programme: one }: Version, { programme: other }: Version): void {
  if (one.id === other.id || one.jobId !== other.jobId) {
    throw new AppError('bad-request', { reason: messages.notTwoOfOneJob });
  }
}

function settingsOf(server: ServerContext, programmeId: string): ReplacedSettings {
  const { db } = server;
  return {
    treatment: currentTreatment(server, programmeId)?.treatment ?? null,
    markers: db
      .select()
      .from(markers)
      .where(eq(markers.programmeId, programmeId))
      .all()
      .map(({ programmeId: _, ...marker }) => marker),
    rows: db
      .select({ id: deliveryRows.id, trim: deliveryRows.trim, edges: deliveryRows.edges })
      .from(deliveryRows)
      .where(and(eq(deliveryRows.programmeId, programmeId), isNull(deliveryRows.removedAtMs)))
      .all(),
  };
}

/** What is set, as it fits the new source. */
function plan(
  server: ServerContext,
  { programme, shape: from }: Version,
  { shape: to }: Version,
): { settings: ReplacedSettings; misfits: MisfitView[] } {
  const before = settingsOf(server, programme.id);
  const misfits: MisfitView[] = [];
  const treated = before.treatment && refitTreatment(before.treatment, from, to);
  for (const { step, misfit } of treated?.misfits ?? []) misfits.push({ text: messages.step[step], misfit });
  const fitted = before.markers.flatMap((marker) => {
    const { range, misfit } = refitRange(marker, from, to);
    if (misfit) misfits.push({ text: messages.marker(marker.name), misfit });
    return range ?? [];
  });
  const rows = before.rows.map((row) => {
    const own = row.trim && refitRange(row.trim, from, to);
    if (own?.misfit) misfits.push({ text: messages.rowSpan, misfit: own.misfit });
    const edges = row.edges && refitEdges(row.edges, before.treatment, from, to);
    return { id: row.id, trim: own?.range ?? null, edges };
  });
  return { settings: { treatment: treated?.treatment ?? null, markers: fitted, rows }, misfits };
}

/** A row's own edges follow those of a treatment; what does not fit is worked out anew when it is asked for. */
function refitEdges(
  edges: NonNullable<ReplacedSettings['rows'][number]['edges']>,
  treatment: ReplacedSettings['treatment'],
  from: SourceShape,
  to: SourceShape,
): ReplacedSettings['rows'][number]['edges'] {
  const { trim, paddingStart = null, paddingEnd = null } = edges;
  const { resampleHz = null } = treatment ?? {};
  const { treatment: fitted } = refitTreatment(
    { ...gainOnly(0), resampleHz, trim: trim ?? null, paddingStart, paddingEnd },
    from,
    to,
  );
  return {
    ...(edges.paddingStart === undefined ? {} : { paddingStart: fitted.paddingStart }),
    ...(edges.paddingEnd === undefined ? {} : { paddingEnd: fitted.paddingEnd }),
    ...(fitted.trim ? { trim: fitted.trim } : {}),
  };
}

/** Within a transaction. A source belongs to one programme of a job at every moment: one of the two waits elsewhere meanwhile. */
function swapSources(
  { db }: ServerContext,
  one: typeof programmes.$inferSelect,
  other: typeof programmes.$inferSelect,
): void {
  const source = db.select().from(sources).where(eq(sources.sha256, other.sourceSha256)).get();
  if (!source) throw new AppError('not-found', { what: 'source' });
  const waiting = `waiting-${one.id}`;
  db.insert(sources)
    .values({ ...source, sha256: waiting })
    .run();
  const give = (id: string, sourceSha256: string, fileName: string) =>
    db.update(programmes).set({ sourceSha256, fileName }).where(eq(programmes.id, id)).run();
  give(other.id, waiting, other.fileName);
  give(one.id, other.sourceSha256, other.fileName);
  give(other.id, one.sourceSha256, one.fileName);
  db.delete(sources).where(eq(sources.sha256, waiting)).run();
}

/** @param isOtherRate edits before this one are counted in frames of another rate: they cannot be gone back to */
function putSettings(
  server: ServerContext,
  programmeId: string,
  { treatment, markers: kept, rows }: ReplacedSettings,
  isOtherRate: boolean,
): void {
  const { db } = server;
  if (treatment) saveTreatment(server, programmeId, treatment);
  // What was forecast was of another source.
  db.update(treatments).set({ predicted: null }).where(eq(treatments.programmeId, programmeId)).run();
  if (isOtherRate) {
    db.update(programmes).set({ editId: null }).where(eq(programmes.id, programmeId)).run();
    db.delete(treatmentEdits).where(eq(treatmentEdits.programmeId, programmeId)).run();
  }
  db.delete(markers).where(eq(markers.programmeId, programmeId)).run();
  for (const marker of kept)
    db.insert(markers)
      .values({ ...marker, programmeId })
      .run();
  for (const { id, trim, edges } of rows) {
    db.update(deliveryRows)
      .set({ trim, edges, prediction: null, predictionKey: null })
      .where(and(eq(deliveryRows.id, id), eq(deliveryRows.programmeId, programmeId)))
      .run();
  }
}
