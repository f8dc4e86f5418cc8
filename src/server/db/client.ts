import { resolve } from 'node:path';
import Database from 'better-sqlite3';
import { type BetterSQLite3Database, drizzle } from 'drizzle-orm/better-sqlite3';
import { migrate } from 'drizzle-orm/better-sqlite3/migrator';
import { restrictToOwner } from '../storage/data-folder';
import * as schema from './schema';

export type Db = BetterSQLite3Database<typeof schema> & { $client: Database.Database };

const OWNERS_FILE = 0o600;

/** Opens the database, brings it up to date, and makes every commit survive a power cut. */
export function openDatabase(path: string): Db {
  const client = new Database(path);
  // What stands beside it, as the write-ahead log, gets the same rights.
  restrictToOwner(path, OWNERS_FILE);
  client.pragma('journal_mode = WAL');
  client.pragma('synchronous = FULL');
  client.pragma('foreign_keys = ON');
  client.pragma('busy_timeout = 5000');
  const db = drizzle(client, { schema });
  migrate(db, { migrationsFolder: resolve('src/server/db/migrations') });
  return db;
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
