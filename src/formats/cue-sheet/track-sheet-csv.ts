import { trackSheetMessages as messages } from '@/core/lineup/messages';
import type { TrackRow } from '@/core/lineup/track-sheet';
import { csvOf } from '../csv';

/** A track sheet as CSV: a row of names, then a row for each track. */
export function trackSheetCsv(rows: readonly TrackRow[]): string {
  const level = (value: number | null) => value?.toFixed(2) ?? null;
  return csvOf(
    messages.columns,
    rows.map((row) => [
      ...[row.number, row.title, row.artist, row.isrc, row.pause, row.start, row.length, row.startFrame],
      ...[row.integratedLufs, row.fromWholeLu, row.truePeakDbtp].map(level),
      ...[row.fileName, row.sha256],
    ]),
  );
}
