import { isDeepStrictEqual } from 'node:util';
import { and, asc, desc, eq, isNull } from 'drizzle-orm';
import { slug } from '@/core/delivery/file-name';
import { AppError } from '@/core/errors/app-error';
import { DEFAULT_SPEC_ID, SPECS } from '@/core/spec/catalogue';
import { type Spec, specSchema } from '@/core/spec/spec';
import type { ServerContext } from '../context';
import { specs } from '../db/schema';

/** A spec as it is now, and what can be done with it. */
export interface SpecView {
  spec: Spec;
  isBuiltIn: boolean;
  /** All of them, the first one first. */
  versions: Spec[];
}

type SpecRow = typeof specs.$inferSelect;

/**
 * Brings the built-in catalogue into the database: one that says something else than its newest version there becomes the
 * next, so that what was certified under the old one still says under which.
 */
export function keepCatalogue({ db, clock }: Pick<ServerContext, 'db' | 'clock'>): void {
  db.transaction(
    (tx) => {
      for (const built of SPECS) {
        const newest = tx.select().from(specs).where(eq(specs.id, built.id)).orderBy(desc(specs.version)).get();
        if (newest && isDeepStrictEqual({ ...newest.spec, version: 1 }, JSON.parse(JSON.stringify(built)))) continue;
        const version = (newest?.version ?? 0) + 1;
        const spec = { ...built, version };
        tx.insert(specs).values({ id: built.id, version, spec, isBuiltIn: true, createdAtMs: clock.now() }).run();
      }
    },
    { behavior: 'immediate' },
  );
}

/** Every spec that is offered: the built-in ones in the order of their catalogue, then those of one's own by name. */
export function listSpecs({ db }: Pick<ServerContext, 'db'>): SpecView[] {
  const rows = db.select().from(specs).where(isNull(specs.retiredAtMs)).orderBy(asc(specs.version)).all();
  const byId = new Map<string, SpecRow[]>();
  for (const row of rows) byId.set(row.id, [...(byId.get(row.id) ?? []), row]);
  const place = new Map(SPECS.map(({ id }, i) => [id, i]));
  return [...byId.values()]
    .map((versions) => {
      const newest = versions.at(-1) as SpecRow;
      return { spec: newest.spec, isBuiltIn: newest.isBuiltIn, versions: versions.map(({ spec }) => spec) };
    })
    .sort(
      (a, b) =>
        (place.get(a.spec.id) ?? SPECS.length) - (place.get(b.spec.id) ?? SPECS.length) ||
        a.spec.name.localeCompare(b.spec.name),
    );
}

/** The newest version of a spec. Throws `unknown-spec` with the ids that there are. */
export function specNamed(server: Pick<ServerContext, 'db'>, specId: string): Spec {
  const row = newestOf(server, specId);
  if (!row) throw new AppError('unknown-spec', { specId, known: listSpecs(server).map(({ spec }) => spec.id) });
  return row.spec;
}

/** The newest versions of some specs, by id; those that there are not are left out. */
export function specsNamed(server: Pick<ServerContext, 'db'>, specIds: Iterable<string>): Map<string, Spec> {
  return new Map(
    [...specIds].flatMap((specId): [string, Spec][] => {
      const row = newestOf(server, specId);
      return row ? [[specId, row.spec]] : [];
    }),
  );
}

/** The first of the named specs that there is, or else the usual one. */
export function specOrUsual(server: Pick<ServerContext, 'db'>, ...specIds: (string | null | undefined)[]): Spec {
  for (const specId of specIds) {
    const spec = specId == null ? undefined : newestOf(server, specId)?.spec;
    if (spec) return spec;
  }
  return specNamed(server, DEFAULT_SPEC_ID);
}

/**
 * Keeps a spec of one's own as the next version of what its id names, or as a new one. What an older version says stays.
 *
 * @param seenVersion the newest that whoever changes it has seen
 * @throws AppError `built-in-spec`, or `changed-elsewhere` where there is a newer one
 */
export function saveSpec({ db, clock }: ServerContext, input: unknown, seenVersion?: number): Spec {
  const wanted = specSchema.parse(input);
  return db.transaction(
    (tx) => {
      const newest = tx.select().from(specs).where(eq(specs.id, wanted.id)).orderBy(desc(specs.version)).get();
      if (newest?.isBuiltIn) throw new AppError('built-in-spec', { name: newest.spec.name });
      const spec = { ...wanted, version: (newest?.version ?? 0) + 1 };
      if (newest && newest.retiredAtMs === null && isDeepStrictEqual({ ...newest.spec, version: spec.version }, spec)) {
        return newest.spec;
      }
      if (newest && seenVersion !== undefined && newest.version !== seenVersion) {
        throw new AppError('changed-elsewhere', { title: newest.spec.name });
      }
      tx.update(specs).set({ retiredAtMs: null }).where(eq(specs.id, spec.id)).run();
      const row = { id: spec.id, version: spec.version, spec, isBuiltIn: false, createdAtMs: clock.now() };
      tx.insert(specs).values(row).run();
      return spec;
    },
    { behavior: 'immediate' },
  );
}

/** Keeps a copy under a name and an id of its own, and returns it. */
export function copySpec(server: ServerContext, source: Spec, name: string): Spec {
  const { basis } = source;
  const document = basis.kind === 'own' ? basis.document : `after ${source.name} (${basis.document})`;
  const id = freeId(
    server,
    slug(name)
      .normalize('NFKD')
      .replaceAll(/[^a-z0-9-]/g, '') || 'spec',
  );
  return saveSpec(server, { ...source, id, name, basis: { kind: 'own', document } });
}

/** Brings a spec in from a file, as one of one's own: under its own id where that is free or already one's own. */
export function importSpec(server: ServerContext, input: unknown): Spec {
  const spec = specSchema.parse(input);
  const known = newestOf(server, spec.id);
  if (!known?.isBuiltIn) return saveSpec(server, { ...spec, basis: { ...spec.basis, kind: 'own' } });
  return copySpec(server, spec, spec.name === known.spec.name ? `${spec.name}, brought in` : spec.name);
}

/** Puts a spec of one's own away: it is not offered any more, and every version stays. Throws `built-in-spec`. */
export function retireSpec(server: ServerContext, specId: string): void {
  const row = newestOf(server, specId);
  if (!row) throw new AppError('not-found', { what: 'spec' });
  if (row.isBuiltIn) throw new AppError('built-in-spec', { name: row.spec.name });
  server.db.update(specs).set({ retiredAtMs: server.clock.now() }).where(eq(specs.id, specId)).run();
}

function newestOf({ db }: Pick<ServerContext, 'db'>, specId: string): SpecRow | undefined {
  return db
    .select()
    .from(specs)
    .where(and(eq(specs.id, specId), isNull(specs.retiredAtMs)))
    .orderBy(desc(specs.version))
    .get();
}

function freeId({ db }: ServerContext, stem: string): string {
  const isTaken = (id: string) => db.select().from(specs).where(eq(specs.id, id)).get() !== undefined;
  const short = stem.slice(0, 56);
  let id = short;
  for (let n = 2; isTaken(id); n++) id = `${short}-${n}`;
  return id;
}
