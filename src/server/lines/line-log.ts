import { sql } from 'drizzle-orm';
import { higher } from '@/core/live/line-second';
import { type LoggedSecond, SECOND_STATES, type SecondState } from '@/core/live/second-log';
import type { Level } from '@/core/units/decibel';
import type { ServerContext } from '../context';
import { lineSeconds } from '../db/schema';

type Context = Pick<ServerContext, 'db'>;

/** What a line read over some seconds. */
export interface LogStep {
  /** Its first second, since 1970. */
  atS: number;
  maxMomentaryLufs: Level;
  minShortTermLufs: Level;
  maxShortTermLufs: Level;
  /** At its end. */
  integratedLufs: Level;
  truePeakDbtp: Level;
  /** Of its seconds, how many stand how to the spec. */
  states: Record<SecondState, number>;
}

/** Writes seconds of lines, of several together. A second that is there already is left: the clock was set back. */
export function writeSeconds({ db }: Context, seconds: readonly (LoggedSecond & { lineId: string })[]): void {
  if (seconds.length === 0) return;
  db.transaction((tx) => {
    for (const { lineId, atS, state, momentaryLufs, shortTermLufs, integratedLufs, truePeaksDbtp } of seconds) {
      const truePeakDbtp = higher(...truePeaksDbtp);
      tx.insert(lineSeconds)
        .values({ lineId, atS, state, momentaryLufs, shortTermLufs, integratedLufs, truePeakDbtp })
        .onConflictDoNothing()
        .run();
    }
  });
}

/** The log between two times, in steps of so many seconds; steps of which nothing was logged are left out. */
export function readLog({ db }: Context, lineId: string, fromS: number, toS: number, stepS: number): LogStep[] {
  // Numbers are bound as real ones, and a division of such would make a step of each second.
  const whole = sql`CAST(${stepS} AS INTEGER)`;
  const rows = db.all<Omit<LogStep, 'states'> & Record<SecondState, number>>(sql`
    WITH steps AS (
      SELECT (at_s / ${whole}) * ${whole} AS atS, max(at_s) AS lastS,
        max(momentary_lufs) AS maxMomentaryLufs, min(short_term_lufs) AS minShortTermLufs,
        max(short_term_lufs) AS maxShortTermLufs, max(true_peak_dbtp) AS truePeakDbtp,
        ${sql.join(
          SECOND_STATES.map((state) => sql`sum(state = ${state}) AS ${sql.identifier(state)}`),
          sql`, `,
        )}
      FROM line_seconds WHERE line_id = ${lineId} AND at_s >= ${fromS} AND at_s < ${toS} GROUP BY 1
    )
    SELECT steps.*, line_seconds.integrated_lufs AS integratedLufs
    FROM steps JOIN line_seconds ON line_seconds.line_id = ${lineId} AND line_seconds.at_s = steps.lastS
    ORDER BY steps.atS`);
  return rows.map(
    ({ atS, maxMomentaryLufs, minShortTermLufs, maxShortTermLufs, integratedLufs, truePeakDbtp, ...states }) => ({
      atS,
      maxMomentaryLufs,
      minShortTermLufs,
      maxShortTermLufs,
      integratedLufs,
      truePeakDbtp,
      states: { inside: states.inside, over: states.over, under: states.under, lost: states.lost },
    }),
  );
}
