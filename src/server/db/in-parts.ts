/** Rows that one statement inserts: SQLite takes 32,766 values in one. */
const INSERTED_ROWS = 500;

/** Rows in parts that one statement can insert, however many they are. */
export function inParts<T>(all: readonly T[]): T[][] {
  return Array.from({ length: Math.ceil(all.length / INSERTED_ROWS) }, (_, i) =>
    all.slice(i * INSERTED_ROWS, (i + 1) * INSERTED_ROWS),
  );
}
