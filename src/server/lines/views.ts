import type { Server } from '../server';
import { type LineView, lineRow, lineRows, viewLine } from './lines';
import type { LiveLine } from './live-lines';

/** A line as it is set up, and what is known of it now. */
export type LiveLineView = LineView & { live: LiveLine };

export function viewLiveLines(server: Server): LiveLineView[] {
  return lineRows(server).map((row) => ({ ...viewLine(server, row), live: server.lines.live(row.id) }));
}

/** Throws `not-found`. */
export function viewLiveLine(server: Server, lineId: string): LiveLineView {
  const row = lineRow(server, lineId);
  return { ...viewLine(server, row), live: server.lines.live(lineId) };
}
