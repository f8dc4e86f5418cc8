import { type SQL, type SQLWrapper, sql } from 'drizzle-orm';

/** Whether a column is one of some values, however many there are: they are one parameter of the statement. */
export function among(column: SQLWrapper, values: readonly string[]): SQL {
  return sql`${column} in (select value from json_each(${JSON.stringify(values)}))`;
}
