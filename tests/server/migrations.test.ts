/** Databases of earlier versions are read: kept ones with all that they held, and each earlier schema with a row in every table. */
import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import { is } from 'drizzle-orm';
import { SQLiteTable } from 'drizzle-orm/sqlite-core';
import { openDatabase } from '@/server/db/client';
import * as schema from '@/server/db/schema';
import { viewSheet } from '@/server/deliveries/sheet';
import { listJobs } from '@/server/jobs/job-list';
import { viewJob } from '@/server/jobs/jobs';
import { Server } from '@/server/server';
import { listSpecs } from '@/server/specs/specs';
import { DataFolder } from '@/server/storage/data-folder';
import { currentTreatment } from '@/server/treatments/treatments';

const MIGRATIONS = 'src/server/db/migrations';
const KEPT = 'tests/fixtures/databases';

let root: string;
beforeEach(() => {
  root = mkdtempSync(join(tmpdir(), 'opsimeter-migrations-'));
});
afterEach(() => rmSync(root, { recursive: true, force: true }));

const tags = readdirSync(MIGRATIONS)
  .filter((name) => name.endsWith('.sql'))
  .sort();
const kept = readdirSync(KEPT).sort();

/** Puts a kept database into the data folder. */
function restore(name: string): string {
  const path = join(root, 'opsimeter.db');
  const db = new Database(path);
  db.pragma('foreign_keys = OFF');
  db.exec(readFileSync(join(KEPT, name), 'utf8'));
  db.close();
  return path;
}

test('a database of every schema is kept since the first was, of the one of today too', () => {
  // By `node scripts/keep-database.mjs`.
  expect(kept).toEqual(tags.slice(tags.indexOf(kept[0] as string)));
});

test.each(kept)('every value of the kept database %s is read by the schemas of today', (name) => {
  const today = openDatabase(restore(name));
  const rows = Object.values(schema)
    .filter((table) => is(table, SQLiteTable))
    .flatMap((table) => today.select().from(table).all());
  expect(rows.length).toBeGreaterThan(20);
  expect(today.$client.pragma('foreign_key_check')).toEqual([]);
  today.$client.close();
});

test.each(kept.slice(1))('the job of the kept database %s has everything it had', async (name) => {
  restore(name);
  const server = new Server(new DataFolder(root));
  try {
    const job = listJobs(server).find(({ name }) => name === 'Kept');
    const { id, programmes } = viewJob(server, job?.id as string);
    expect(programmes).toMatchObject([
      {
        title: 'kept',
        tags: { title: 'Kept', isrc: 'QM7262600001' },
        markers: [{ name: 'Cue', startFrame: 800, endFrame: 1600 }],
        measured: { readings: { samplePeakDbfs: expect.closeTo(-23, 1) } },
      },
      { title: 'referred', reference: { path: expect.stringContaining('referred.wav') } },
    ]);
    expect(programmes[0]?.cover).toMatch(/^(4c4b6a3b|49779094)/);
    const { rows, templates } = viewSheet(server, id);
    const sets = templates.filter(({ isBuiltIn }) => !isBuiltIn);
    expect(rows).toMatchObject([
      {
        levelMode: { kind: 'as-set' },
        trim: { startFrame: 1600, endFrame: 30_000 },
        delivery: {
          acceptedReason: 'for the kept database',
          written: { reduction: { greatestDb: expect.closeTo(1, 0) } },
        },
        transfer: { state: 'refused', reasons: [expect.any(String)] },
      },
      {
        levelMode: { kind: 'solved', maxReductionDb: 3 },
        delivery: { written: { verdict: { items: expect.anything() } } },
      },
      { hasOwnEdges: true },
    ]);
    expect(sets).toMatchObject([{ name: 'Season' }]);
    expect(listSpecs(server).filter(({ isBuiltIn }) => !isBuiltIn)).toMatchObject([{ spec: { name: 'Own' } }]);
  } finally {
    await server.close();
  }
});

test('what a newer version has stored is not guessed at', () => {
  const path = restore(kept.at(-1) as string);
  const db = new Database(path);
  db.exec("UPDATE treatments SET treatment = json_set(treatment, '$.version', 99)");
  db.close();
  const today = openDatabase(path);
  expect(() => today.select().from(schema.treatments).all()).toThrow('stored by a newer version (99');
  today.$client.close();
});

test('a database of before steps and rows had their names of today is read, and can be gone on with', async () => {
  restore('0010_row_edges.sql');
  const server = new Server(new DataFolder(root));
  try {
    const [job] = listJobs(server);
    const view = viewJob(server, job?.id as string);
    const [programme] = view.programmes;
    expect(programme).toMatchObject({ title: 'old', markers: [{ name: 'Cue', startFrame: 800, endFrame: 1600 }] });
    expect(currentTreatment(server, programme?.id as string)?.treatment).toMatchObject({
      trim: { startFrame: 800, endFrame: 23_200 },
      paddingStart: { frames: 4000, kind: 'silence' },
      paddingEnd: { frames: 2000, kind: 'silence' },
      outputGainDb: -0.5,
      fadeIn: { frames: 80, shape: 'linear' },
    });
    const { rows, templates } = viewSheet(server, view.id);
    const sets = templates.filter(({ isBuiltIn }) => !isBuiltIn);
    expect(rows).toMatchObject([
      {
        levelMode: { kind: 'as-set' },
        trim: { startFrame: 1600, endFrame: 16_000 },
        delivery: { fileName: expect.stringMatching(/^old_ebu-r128_v\d\.wav$/), isDiscarded: false },
      },
      { levelMode: { kind: 'solved', maxReductionDb: 3, marginDb: 0 }, receiver: { name: 'Playout' } },
      { levelMode: { kind: 'as-set' }, format: { isPassthrough: true } },
    ]);
    expect(rows[0]?.delivery?.written).not.toBeNull();
    expect(sets).toMatchObject([{ name: 'Season' }]);
  } finally {
    await server.close();
  }
});

interface Column {
  name: string;
  type: string;
}

/** Something that each kind of column takes. */
function sampleValue({ name, type }: Column, table: string): string | number {
  if (type.toLowerCase() !== 'text') return 1;
  return /format|way|treatment|spec|report|rules|conduct|manifest|predicted|lines|reasons/.test(name) ? '{}' : table;
}

test.each(tags.slice(0, -1).map((tag, i) => [tag, i + 1] as const))(
  'after %s, a row in every table is still there today',
  (_, count) => {
    const path = join(root, 'opsimeter.db');
    const db = new Database(path);
    db.pragma('foreign_keys = OFF');
    db.exec('CREATE TABLE __drizzle_migrations (id SERIAL PRIMARY KEY, hash text NOT NULL, created_at numeric)');
    const journal = JSON.parse(readFileSync(join(MIGRATIONS, 'meta/_journal.json'), 'utf8')) as {
      entries: { when: number }[];
    };
    for (const [i, tag] of tags.slice(0, count).entries()) {
      db.exec(readFileSync(join(MIGRATIONS, tag), 'utf8'));
      db.prepare('INSERT INTO __drizzle_migrations (hash, created_at) VALUES (?, ?)').run(
        tag,
        journal.entries[i]?.when,
      );
    }
    const names = db
      .prepare("SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE '\\_\\_%' ESCAPE '\\'")
      .all()
      .map((row) => (row as { name: string }).name)
      .filter((name) => !name.startsWith('sqlite_'));
    for (const name of names) {
      const columns = db.prepare(`PRAGMA table_info("${name}")`).all() as Column[];
      db.prepare(`INSERT INTO "${name}" VALUES (${columns.map(() => '?').join(', ')})`).run(
        columns.map((column) => sampleValue(column, name)),
      );
    }
    db.close();

    const today = openDatabase(path);
    const counts = (
      today.$client
        .prepare("SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE '\\_\\_%' ESCAPE '\\'")
        .all() as { name: string }[]
    )
      .filter(({ name }) => !name.startsWith('sqlite_'))
      .map(({ name }) => (today.$client.prepare(`SELECT count(*) AS n FROM "${name}"`).get() as { n: number }).n);
    expect(counts.reduce((sum, n) => sum + n, 0)).toBe(names.length);
    expect(today.$client.pragma('integrity_check')).toEqual([{ integrity_check: 'ok' }]);
    today.$client.close();
  },
);
