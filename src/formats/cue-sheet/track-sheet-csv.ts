import { stringify } from 'csv-stringify/sync';
import { trackSheetMessages as messages } from '@/core/lineup/messages';
import type { TrackRow } from '@/core/lineup/track-sheet';

/** A track sheet as CSV (RFC 4180): a row of names, then a row for each track. */
export function trackSheetCsv(rows: readonly TrackRow[]): string {
  const level = (value: number | null) => (value === null ? '' : value.toFixed(2));
  const records = rows.map((row) => [
    row.number,
    ...[row.title, row.artist, row.isrc].map(plainText),
    ...[row.pause, row.start, row.length, row.startFrame],
    ...[row.integratedLufs, row.fromWholeLu, row.truePeakDbtp].map(level),
    ...[row.fileName, row.sha256],
  ]);
  return stringify([messages.columns, ...records], { record_delimiter: 'windows' });
}

/** Text that a spreadsheet would take for a formula is kept as text by a quote ahead of it (common practice, no source). */
function plainText(text: string): string {
  return /^[=+@\t-]/.test(text) ? `'${text}` : text;
}
