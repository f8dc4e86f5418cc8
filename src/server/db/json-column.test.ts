import Database from 'better-sqlite3';
import { drizzle } from 'drizzle-orm/better-sqlite3';
import { sqliteTable, text } from 'drizzle-orm/sqlite-core';
import * as z from 'zod';
import { jsonColumn } from './json-column';

const UPGRADES = {
  1: (value: unknown) => ({ gainDb: (value as { gain: number }).gain }),
  2: (value: unknown) => ({ ...(value as object), name: 'of version 2' }),
};

function settings(version: number, schema: z.ZodType<unknown>) {
  const column = jsonColumn({ version, schema, upgrades: UPGRADES });
  return sqliteTable('settings', { id: text('id').primaryKey(), value: column('value') });
}

const first = settings(1, z.object({ gain: z.number() }));
const third = settings(3, z.object({ gainDb: z.number(), name: z.string().default('none') }));

function opened() {
  const client = new Database(':memory:');
  client.exec('CREATE TABLE settings (id text PRIMARY KEY, value text)');
  return drizzle(client);
}

test('a value is brought from its version to the next, and the next', () => {
  const db = opened();
  db.insert(first)
    .values({ id: 'a', value: { gain: -3 } })
    .run();
  expect(db.select().from(third).get()).toEqual({ id: 'a', value: { gainDb: -3, name: 'of version 2' } });
  expect(db.select().from(first).get()).toEqual({ id: 'a', value: { gain: -3 } });
});

test('null stays null, and what the schema refuses is not read', () => {
  const db = opened();
  db.insert(third)
    .values([{ id: 'a', value: null }])
    .run();
  expect(db.select().from(third).get()).toEqual({ id: 'a', value: null });
  db.insert(third)
    .values({ id: 'b', value: { gainDb: 'loud' } })
    .run();
  expect(() => db.select().from(third).all()).toThrow('gainDb');
});

test('a version of later is refused', () => {
  const db = opened();
  db.insert(third)
    .values({ id: 'a', value: { gainDb: 1 } })
    .run();
  expect(() => db.select().from(first).all()).toThrow('stored by a newer version (3, this one reads 1)');
});
