/**
 * Keeps a small database of today's schema for tests of later ones, in `tests/fixtures/databases/<migration>.sql`:
 * node scripts/keep-database.mjs
 */
import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import Database from 'better-sqlite3';
import { bundleFixture } from './bundle-fixture.mjs';

const [tag] = readdirSync('src/server/db/migrations')
  .filter((name) => name.endsWith('.sql'))
  .sort()
  .reverse();
// Within the project, where packages are found.
mkdirSync('dist', { recursive: true });
const folder = mkdtempSync(join('dist', 'keep-'));
try {
  const filler = join(folder, 'full-database.mjs');
  await bundleFixture('full-database', filler);
  const data = join(folder, 'data');
  execFileSync(process.execPath, [filler, data], {
    stdio: 'inherit',
    env: { ...process.env, OPSIMETER_KEY_FILE: join(folder, 'key') },
  });
  const sql = dump(new Database(join(data, 'opsimeter.db'), { readonly: true }));
  writeFileSync(`tests/fixtures/databases/${tag}`, sql.replaceAll(resolve(data), '/kept').replaceAll(data, '/kept'));
} finally {
  rmSync(folder, { recursive: true, force: true });
}

/** Every table, index and row as statements that make them again. */
function dump(db) {
  const lines = [];
  const made = db.prepare(
    "SELECT type, name, sql FROM sqlite_master WHERE sql IS NOT NULL ORDER BY type = 'index', name",
  );
  for (const { type, name, sql } of made.all()) {
    if (name.startsWith('sqlite_')) continue;
    lines.push(`${sql};`);
    if (type !== 'table') continue;
    for (const row of db.prepare(`SELECT * FROM "${name}"`).all()) {
      const values = Object.values(row).map((value) =>
        value === null ? 'NULL' : typeof value === 'number' ? String(value) : `'${value.replaceAll("'", "''")}'`,
      );
      lines.push(`INSERT INTO "${name}" VALUES (${values.join(', ')});`);
    }
  }
  db.close();
  return `${lines.join('\n')}\n`;
}
