import { readFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import Database from 'better-sqlite3';
import { type BetterSQLite3Database, drizzle } from 'drizzle-orm/better-sqlite3';
import { migrate } from 'drizzle-orm/better-sqlite3/migrator';
import * as z from 'zod';
import { AppError } from '@/core/errors/app-error';
import { restrictToOwner } from '../storage/data-folder';
import * as schema from './schema';

export type Db = BetterSQLite3Database<typeof schema> & { $client: Database.Database };

const OWNERS_FILE = 0o600;

/**
 * Opens the database, brings it up to date, and makes every commit survive a power cut. Throws `database-damaged`, or `database-newer`, before
 * anything in it is changed.
 */
export function openDatabase(path: string): Db {
  const migrationsFolder = resolve('src/server/db/migrations');
  const client = new Database(path);
  try {
    checkWhole(client, path);
    checkNotNewer(client, path, migrationsFolder);
    // What stands beside it, as the write-ahead log, gets the same rights.
    restrictToOwner(path, OWNERS_FILE);
    client.pragma('journal_mode = WAL');
    client.pragma('synchronous = FULL');
    client.pragma('foreign_keys = ON');
    client.pragma('busy_timeout = 5000');
    const db = drizzle(client, { schema });
    migrate(db, { migrationsFolder });
    return db;
  } catch (error) {
    client.close();
    throw error;
  }
}

const DAMAGED = ['SQLITE_CORRUPT', 'SQLITE_NOTADB'];

function checkWhole(client: Database.Database, path: string): void {
  const damaged = (reason: string, cause?: unknown) => new AppError('database-damaged', { path, reason }, { cause });
  try {
    const [found] = client.pragma('quick_check(1)') as { quick_check: string }[];
    if (found?.quick_check !== 'ok') throw damaged(found?.quick_check.split('\n').at(-1) ?? '');
  } catch (error) {
    const { code = '', message } = error as { code?: string; message: string };
    throw DAMAGED.some((known) => code.startsWith(known)) ? damaged(message, error) : error;
  }
}

const journalSchema = z.object({ entries: z.array(z.object({ when: z.number() })) });

/** Changes are made in order, each at its time: a database that has one later than all that are known here has been with a newer version. */
function checkNotNewer(client: Database.Database, path: string, migrationsFolder: string): void {
  const isKnown = client.prepare("select 1 from sqlite_master where name = '__drizzle_migrations'").get() !== undefined;
  if (!isKnown) return;
  const { newest } = client.prepare('select max(created_at) as newest from __drizzle_migrations').get() as {
    newest: number | null;
  };
  const journal = readFileSync(join(migrationsFolder, 'meta', '_journal.json'), 'utf8');
  const { entries } = journalSchema.parse(JSON.parse(journal));
  if (entries.every(({ when }) => when < (newest ?? 0))) throw new AppError('database-newer', { path });
}

/**
 * Holds a data folder for one server: a lock that the system lets go when the process ends, however it ends.
 * Returns undefined where another process has it.
 */
export function lockDataFolder(lockPath: string): Database.Database | undefined {
  const lock = new Database(lockPath, { timeout: 0 });
  try {
    lock.pragma('journal_mode = DELETE');
    lock.exec('BEGIN EXCLUSIVE');
    return lock;
  } catch {
    lock.close();
    return undefined;
  }
}
