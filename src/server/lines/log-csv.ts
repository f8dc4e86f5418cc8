import { slug } from '@/core/delivery/file-name';
import { SECOND_STATES } from '@/core/live/second-log';
import type { Level } from '@/core/units/decibel';
import { formatDay } from '@/core/units/format';
import { csvOf, csvRowsOf } from '@/formats/csv';
import type { ServerContext } from '../context';
import { readLog } from './line-log';
import { lineRow } from './lines';
import { lineMessages as messages } from './messages';

/** Of each part that is read and sent. */
const PART_SECONDS = 3600;

/** The log of each second between two times, as CSV in parts. Throws `not-found`. */
export function logCsv(
  server: Pick<ServerContext, 'db'>,
  lineId: string,
  fromS: number,
  toS: number,
): { fileName: string; parts: Generator<string> } {
  const { name } = lineRow(server, lineId);
  return { fileName: `${slug(name)}_${formatDay(fromS * 1000)}.csv`, parts: partsOf(server, lineId, fromS, toS) };
}

function* partsOf(server: Pick<ServerContext, 'db'>, lineId: string, fromS: number, toS: number): Generator<string> {
  yield csvOf(messages.logColumns, []);
  for (let from = fromS; from < toS; from += PART_SECONDS) {
    const seconds = readLog(server, lineId, from, Math.min(toS, from + PART_SECONDS), 1);
    const text = csvRowsOf(
      seconds.map(({ atS, states, ...read }) => [
        new Date(atS * 1000).toISOString(),
        cell(read.maxMomentaryLufs),
        cell(read.maxShortTermLufs),
        cell(read.integratedLufs),
        cell(read.truePeakDbtp),
        SECOND_STATES.find((state) => states[state] > 0) ?? null,
      ]),
    );
    if (text !== '') yield text;
  }
}

function cell(level: Level): string | null {
  return level?.toFixed(2) ?? null;
}
