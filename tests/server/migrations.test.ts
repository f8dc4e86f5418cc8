/** Databases of earlier versions are read: kept ones with all that they held, and each earlier schema with a row in every table. */
import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import { openDatabase } from '@/server/db/client';
import { viewSheet } from '@/server/deliveries/sheet';
import { listJobs, viewJob } from '@/server/jobs/jobs';
import { Server } from '@/server/server';
import { DataFolder } from '@/server/storage/data-folder';
import { currentTreatment } from '@/server/treatments/treatments';

const MIGRATIONS = 'src/server/db/migrations';

let root: string;
beforeEach(() => {
  root = mkdtempSync(join(tmpdir(), 'opsimeter-migrations-'));
});
afterEach(() => rmSync(root, { recursive: true, force: true }));

test('a database of before steps and rows had their names of today is read, and can be gone on with', async () => {
  const kept = new Database(join(root, 'opsimeter.db'));
  kept.pragma('foreign_keys = OFF');
  kept.exec(readFileSync('tests/fixtures/databases/0010.sql', 'utf8'));
  kept.close();
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
    const { rows, sets } = viewSheet(server, view.id);
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

const tags = readdirSync(MIGRATIONS)
  .filter((name) => name.endsWith('.sql'))
  .sort();

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
