/** Databases that can't be opened are refused in words, before anything in them is changed. */
import { mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import { seededRandom } from '@/cli/demo/random';
import { openDatabase } from '@/server/db/client';
import { Server } from '@/server/server';
import { DataFolder } from '@/server/storage/data-folder';
import { code } from '../fixtures/error-code';

let root: string;
let path: string;
beforeEach(() => {
  root = mkdtempSync(join(tmpdir(), 'opsimeter-database-'));
  path = join(root, 'opsimeter.db');
  openDatabase(path).$client.close();
});
afterEach(() => rmSync(root, { recursive: true, force: true }));

test('one of a newer version is left as it is', async () => {
  const db = new Database(path);
  db.exec("INSERT INTO __drizzle_migrations (hash, created_at) VALUES ('later', 9000000000000)");
  db.pragma('wal_checkpoint(TRUNCATE)');
  db.close();
  const before = readFileSync(path);
  expect(await code(() => openDatabase(path))).toBe('database-newer');
  expect(await code(() => new Server(new DataFolder(root)))).toBe('database-newer');
  expect(readFileSync(path).equals(before)).toBe(true);
});

test('one that is no database is left as it is', async () => {
  writeFileSync(path, 'This is my shopping list. '.repeat(1000));
  const before = readFileSync(path);
  expect(await code(() => openDatabase(path))).toBe('database-damaged');
  expect(readFileSync(path).equals(before)).toBe(true);
});

test.each([1, 2, 3, 4, 5, 6, 7, 8])('one that a disk has damaged is refused, or whole (%i)', async (seed) => {
  const random = seededRandom(seed);
  const bytes = readFileSync(path);
  // A page of noise, where SQLite has one of its own: the first page is behind its header.
  const page = Math.floor((random() * bytes.length) / 4096) * 4096;
  for (let at = Math.max(100, page); at < page + 4096; at++) bytes[at] = Math.floor(256 * random());
  writeFileSync(path, bytes);
  expect(await code(() => openDatabase(path))).toBe('database-damaged');
  // After a refusal the folder can be opened by whoever restores it: nothing holds it.
  expect(await code(() => new Server(new DataFolder(root)))).toBe('database-damaged');
  expect(statSync(path).size).toBe(bytes.length);
});
