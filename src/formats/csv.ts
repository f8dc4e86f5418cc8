import { stringify } from 'csv-stringify/sync';

/** Rows as CSV (RFC 4180), with one of names ahead of them. A cell that is null is empty. */
export function csvOf(names: readonly string[], rows: readonly (readonly (string | number | null)[])[]): string {
  return stringify([names], { record_delimiter: 'windows' }) + csvRowsOf(rows);
}

/** Rows that follow others. */
export function csvRowsOf(rows: readonly (readonly (string | number | null)[])[]): string {
  const cells = rows.map((row) => row.map((cell) => (typeof cell === 'string' ? plainText(cell) : cell)));
  return stringify(cells, { record_delimiter: 'windows' });
}

/** Text that a spreadsheet would take for a formula is kept as text by a quote ahead of it (common practice, no source); a number is none. */
function plainText(text: string): string {
  return /^[=+@\t]|^-(?![\d.]+$)/.test(text) ? `'${text}` : text;
}
