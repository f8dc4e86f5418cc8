import { customType } from 'drizzle-orm/sqlite-core';
import * as z from 'zod';

interface JsonColumn<T> {
  /** Rises with every change that an older reader would misunderstand. */
  version: number;
  schema: z.ZodType<T>;
  /** By the version that a value was stored in, what makes it one of the next version; none where the schema still reads it. */
  upgrades?: Readonly<Record<number, (value: unknown) => unknown>>;
}

const stored = z.object({ version: z.int().positive(), value: z.unknown() });

/**
 * A column of JSON: `{"version", "value"}`. A value is parsed as it is read, after it was brought from the version it was stored in to
 * this one. Reading throws on what the schema refuses, and on a version that is newer than this program's.
 */
export function jsonColumn<T>({ version, schema, upgrades = {} }: JsonColumn<T>) {
  return customType<{ data: T; driverData: string }>({
    dataType: () => 'text',
    toDriver: (value) => JSON.stringify({ version, value }),
    fromDriver: (text) => {
      const read = stored.parse(JSON.parse(text));
      if (read.version > version)
        throw new Error(`stored by a newer version (${read.version}, this one reads ${version})`);
      let { value } = read;
      for (let from = read.version; from < version; from++) value = upgrades[from]?.(value) ?? value;
      return schema.parse(value);
    },
  });
}
