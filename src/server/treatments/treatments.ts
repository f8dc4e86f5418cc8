import { isDeepStrictEqual } from 'node:util';
import { and, asc, count, desc, eq, gt, isNull, lt, lte } from 'drizzle-orm';
import { AppError } from '@/core/errors/app-error';
import type { Readings } from '@/core/loudness/readings';
import { gainOnly, type Treatment, type TreatmentInput, treatmentSchema } from '@/core/treatment/treatment';
import type { ServerContext } from '../context';
import { among } from '../db/among';
import type { Db } from '../db/client';
import { inParts } from '../db/in-parts';
import { deliveries, programmes, treatmentEdits, treatments } from '../db/schema';
import { newId } from '../ids';

type Tx = Parameters<Parameters<Db['transaction']>[0]>[0];
type Programme = typeof programmes.$inferSelect;
type Version = typeof treatments.$inferSelect;

/** So many edits of a programme can be undone. */
const MOST_EDITS = 200;

/** What a programme's treatment is now. */
export interface TreatmentState {
  treatment: Treatment;
  /** 0 before anything was set. */
  version: number;
  /** How many edits can be undone, and done again. */
  undoable: number;
  redoable: number;
  /** Where one stands among the edits: another window that stands elsewhere has not seen the last. */
  editId: number | null;
}

/**
 * Keeps a programme's treatment, as an edit that can be undone. A version that was named, heard or written stays what it
 * is: a change makes the next, or goes back to one that was the same.
 *
 * @returns the number of the version that holds it
 */
export function saveTreatment(server: ServerContext, programmeId: string, input: TreatmentInput): number {
  const treatment = treatmentSchema.parse(input);
  return change(server, programmeId, (tx, programme) => {
    const before = currentOf(tx, programme);
    if (before && isDeepStrictEqual(before.treatment, treatment)) return;
    if (programme.editId === null) addEdit(tx, server, programme, before?.treatment ?? gainOnly(0));
    else {
      const undone = and(eq(treatmentEdits.programmeId, programme.id), gt(treatmentEdits.id, programme.editId));
      tx.delete(treatmentEdits).where(undone).run();
    }
    addEdit(tx, server, programme, treatment);
    forgetOldest(tx, programme.id);
    setTreatment(tx, server, programme, treatment);
  }).version;
}

/**
 * Makes sure that whoever changes a treatment has seen the last change of it.
 *
 * @param seenEditId where they stand among the edits; undefined where they do not say
 * @throws AppError `changed-elsewhere`
 */
export function checkSeen({ db }: ServerContext, programmeId: string, seenEditId: number | null | undefined): void {
  if (seenEditId === undefined) return;
  const programme = db.select().from(programmes).where(eq(programmes.id, programmeId)).get();
  if (!programme) throw new AppError('not-found', { what: 'programme' });
  if (programme.editId !== seenEditId) throw new AppError('changed-elsewhere', { title: programme.title });
}

/** Changes some steps of a programme's treatment, or of one that does nothing; the others stay. See saveTreatment. */
export function changeTreatment(server: ServerContext, programmeId: string, steps: Partial<TreatmentInput>): number {
  const { gainDb, ...rest } = currentTreatment(server, programmeId)?.treatment ?? { gainDb: 0 };
  return saveTreatment(server, programmeId, { gainDb, ...rest, ...steps });
}

/** A version of a programme that is this treatment, whatever is set: one that there is and that stays so, or the next. */
export function versionFor(server: ServerContext, programmeId: string, treatment: Treatment): Version {
  return server.db.transaction(
    (tx) => {
      const versions = versionsOf(tx, programmeId);
      const same = versions.find((version) => isFrozen(tx, version) && isDeepStrictEqual(version.treatment, treatment));
      if (same) return same;
      // Where none is named as set, the newest is: what comes now is to be newer.
      tx.update(programmes)
        .set({ treatmentId: versions[0]?.id ?? null })
        .where(and(eq(programmes.id, programmeId), isNull(programmes.treatmentId)))
        .run();
      const { clock } = server;
      const version = (versions[0]?.version ?? 0) + 1;
      return tx
        .insert(treatments)
        .values({ id: newId(), programmeId, version, treatment, updatedAtMs: clock.now() })
        .returning()
        .all()[0] as typeof treatments.$inferSelect;
    },
    { behavior: 'immediate' },
  );
}

/** First versions, that do nothing, of programmes of which nothing was ever set; by programme. */
export function firstVersions(
  { db, clock }: ServerContext,
  programmeIds: readonly string[],
): Map<string, Pick<Version, 'id' | 'version'>> {
  const first = programmeIds.map((programmeId) => ({
    id: newId(),
    programmeId,
    version: 1,
    treatment: gainOnly(0),
    updatedAtMs: clock.now(),
  }));
  for (const part of inParts(first)) db.insert(treatments).values(part).run();
  return new Map(first.map(({ programmeId, id, version }) => [programmeId, { id, version }]));
}

/** Goes one edit back, or forward again; stays where there is none. */
export function stepTreatment(server: ServerContext, programmeId: string, direction: 'undo' | 'redo'): TreatmentState {
  return change(server, programmeId, (tx, programme) => {
    if (programme.editId === null) return;
    const isUndo = direction === 'undo';
    const edit = tx
      .select()
      .from(treatmentEdits)
      .where(and(eq(treatmentEdits.programmeId, programme.id), (isUndo ? lt : gt)(treatmentEdits.id, programme.editId)))
      .orderBy((isUndo ? desc : asc)(treatmentEdits.id))
      .get();
    if (!edit) return;
    tx.update(programmes).set({ editId: edit.id }).where(eq(programmes.id, programme.id)).run();
    setTreatment(tx, server, programme, edit.treatment);
  });
}

/** Notes that a version was listened to: from now on it stays what it is. Before anything was set there is none. */
export function markHeard(server: ServerContext, programmeId: string, version: number): void {
  const { db, clock } = server;
  db.update(treatments).set({ heardAtMs: clock.now() }).where(versionOf(programmeId, version)).run();
}

/** Names a version, which then stays what it is; an empty name is none. Throws `not-found`. */
export function nameVersion({ db }: ServerContext, programmeId: string, version: number, name: string): void {
  const { changes } = db.update(treatments).set({ name }).where(versionOf(programmeId, version)).run();
  if (changes === 0) throw new AppError('not-found', { what: 'version' });
}

/** The version that is set; undefined before any is. */
export function currentTreatment({ db }: ServerContext, programmeId: string): Version | undefined {
  const programme = db.select().from(programmes).where(eq(programmes.id, programmeId)).get();
  return programme && currentOf(db, programme);
}

/** The versions that are set now, by programme; those of which nothing was set are left out. */
export function currentTreatments({ db }: ServerContext, of: readonly Programme[]): Map<string, Version> {
  const ids = of.map(({ id }) => id);
  const versions = db.select().from(treatments).where(among(treatments.programmeId, ids)).all();
  const byId = new Map(versions.map((version) => [version.id, version]));
  const newest = new Map<string, Version>();
  for (const version of versions) {
    if (version.version > (newest.get(version.programmeId)?.version ?? 0)) newest.set(version.programmeId, version);
  }
  return new Map(
    of.flatMap(({ id, treatmentId }): [string, Version][] => {
      const current = treatmentId === null ? newest.get(id) : byId.get(treatmentId);
      return current ? [[id, current]] : [];
    }),
  );
}

/** Keeps what a version was forecast to read, unless it has been changed meanwhile. */
export function keepForecast(
  { db }: ServerContext,
  { id, treatment }: Pick<Version, 'id' | 'treatment'>,
  predicted: Readings,
): void {
  db.update(treatments)
    .set({ predicted })
    .where(and(eq(treatments.id, id), eq(treatments.treatment, treatment)))
    .run();
}

/** As `treatmentState`. Throws `not-found`. */
export function treatmentStateOf({ db }: ServerContext, programmeId: string): TreatmentState {
  const programme = db.select().from(programmes).where(eq(programmes.id, programmeId)).get();
  if (!programme) throw new AppError('not-found', { what: 'programme' });
  return treatmentState(db, programme);
}

/** What the treatment is, and how far it can be undone. */
export function treatmentState(db: Db | Tx, programme: Programme): TreatmentState {
  const current = currentOf(db, programme);
  const edits = (where: ReturnType<typeof lt>) =>
    db
      .select({ edits: count() })
      .from(treatmentEdits)
      .where(and(eq(treatmentEdits.programmeId, programme.id), where))
      .get()?.edits ?? 0;
  const { editId } = programme;
  return {
    treatment: current?.treatment ?? gainOnly(0),
    version: current?.version ?? 0,
    undoable: editId === null ? 0 : edits(lt(treatmentEdits.id, editId)),
    redoable: editId === null ? 0 : edits(gt(treatmentEdits.id, editId)),
    editId,
  };
}

function change(
  { db }: ServerContext,
  programmeId: string,
  work: (tx: Tx, programme: Programme) => void,
): TreatmentState {
  return db.transaction(
    (tx) => {
      const find = () => tx.select().from(programmes).where(eq(programmes.id, programmeId)).get();
      const programme = find();
      if (!programme) throw new AppError('not-found', { what: 'programme' });
      work(tx, programme);
      return treatmentState(tx, find() as Programme);
    },
    { behavior: 'immediate' },
  );
}

function versionOf(programmeId: string, version: number) {
  return and(eq(treatments.programmeId, programmeId), eq(treatments.version, version));
}

function versionsOf(db: Db | Tx, programmeId: string): Version[] {
  return db
    .select()
    .from(treatments)
    .where(eq(treatments.programmeId, programmeId))
    .orderBy(desc(treatments.version))
    .all();
}

function currentOf(db: Db | Tx, { id, treatmentId }: Programme): Version | undefined {
  if (treatmentId !== null) return db.select().from(treatments).where(eq(treatments.id, treatmentId)).get();
  return versionsOf(db, id)[0];
}

function addEdit(tx: Tx, { clock }: ServerContext, { id }: Programme, treatment: Treatment): void {
  const edit = { programmeId: id, treatment, createdAtMs: clock.now() };
  const { lastInsertRowid } = tx.insert(treatmentEdits).values(edit).run();
  tx.update(programmes)
    .set({ editId: Number(lastInsertRowid) })
    .where(eq(programmes.id, id))
    .run();
}

function forgetOldest(tx: Tx, programmeId: string): void {
  const newest = tx
    .select({ id: treatmentEdits.id })
    .from(treatmentEdits)
    .where(eq(treatmentEdits.programmeId, programmeId))
    .orderBy(desc(treatmentEdits.id))
    .limit(MOST_EDITS + 1)
    .all();
  const tooOld = newest[MOST_EDITS];
  if (!tooOld) return;
  tx.delete(treatmentEdits)
    .where(and(eq(treatmentEdits.programmeId, programmeId), lte(treatmentEdits.id, tooOld.id)))
    .run();
}

/** Points at a version that is the same and stays so, or changes the one that may still change, or makes the next. */
function setTreatment(tx: Tx, { clock }: ServerContext, { id: programmeId }: Programme, treatment: Treatment): void {
  const versions = versionsOf(tx, programmeId);
  const draft = versions.find((version) => !isFrozen(tx, version));
  const same = versions.find((version) => version !== draft && isDeepStrictEqual(version.treatment, treatment));
  const updatedAtMs = clock.now();
  let treatmentId = same?.id ?? draft?.id;
  if (same && draft) tx.delete(treatments).where(eq(treatments.id, draft.id)).run();
  else if (!same && draft) {
    tx.update(treatments).set({ treatment, predicted: null, updatedAtMs }).where(eq(treatments.id, draft.id)).run();
  } else if (!same) {
    treatmentId = newId();
    const version = (versions[0]?.version ?? 0) + 1;
    tx.insert(treatments).values({ id: treatmentId, programmeId, version, treatment, updatedAtMs }).run();
  }
  tx.update(programmes).set({ treatmentId }).where(eq(programmes.id, programmeId)).run();
}

function isFrozen(tx: Tx, { id, name, heardAtMs }: Version): boolean {
  if (name !== '' || heardAtMs !== null) return true;
  return tx.select().from(deliveries).where(eq(deliveries.treatmentId, id)).get() !== undefined;
}
