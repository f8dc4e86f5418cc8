import type { Spec } from '../spec/spec';
import type { Level } from '../units/decibel';
import { isFault, type LineEvent } from './line-event';
import { higher } from './line-second';
import { SECOND_STATES, type SecondState } from './second-log';

/** One second of the log, or what several come to. */
export interface LoggedLevels {
  atS: number;
  maxMomentaryLufs: Level;
  minShortTermLufs: Level;
  maxShortTermLufs: Level;
  truePeakDbtp: Level;
  states: Record<SecondState, number>;
}

/** Seconds one after the other that stand alike to the spec, and not inside. */
export interface OutsideInterval {
  state: Exclude<SecondState, 'inside'>;
  startS: number;
  /** Behind the last. */
  endS: number;
  maxTruePeakDbtp: Level;
  minShortTermLufs: Level;
  maxShortTermLufs: Level;
  /** What alarms said of it. */
  words: string[];
}

/** What a line was in some hours: all of it from its log. */
export interface DayReport {
  lineName: string;
  spec: Spec;
  fromS: number;
  toS: number;
  /** Minute by minute. */
  minutes: readonly LoggedLevels[];
  /** How many seconds stand how; what was not logged is in none. */
  seconds: Record<SecondState, number>;
  maxTruePeakDbtp: Level;
  maxShortTermLufs: Level;
  maxMomentaryLufs: Level;
  outside: readonly OutsideInterval[];
  /** Alarms, markers, and what people have done, in order. */
  events: readonly LineEvent[];
}

/**
 * @param outside every second of the time that is not inside, in order
 * @param events of the time, whichever are about it
 */
export function dayReport(own: {
  lineName: string;
  spec: Spec;
  fromS: number;
  toS: number;
  minutes: readonly LoggedLevels[];
  outside: readonly LoggedLevels[];
  events: readonly LineEvent[];
}): DayReport {
  const { lineName, spec, fromS, toS, minutes, events } = own;
  const faults = events.filter(({ kind }) => isFault(kind));
  const ascending = [...events].sort((a, b) => a.startMs - b.startMs);
  return {
    lineName,
    spec,
    fromS,
    toS,
    minutes,
    seconds: Object.fromEntries(
      SECOND_STATES.map((state) => [state, minutes.reduce((sum, { states }) => sum + states[state], 0)]),
    ) as Record<SecondState, number>,
    maxTruePeakDbtp: higher(...minutes.map(({ truePeakDbtp }) => truePeakDbtp)),
    maxShortTermLufs: higher(...minutes.map(({ maxShortTermLufs }) => maxShortTermLufs)),
    maxMomentaryLufs: higher(...minutes.map(({ maxMomentaryLufs }) => maxMomentaryLufs)),
    outside: intervalsOf(own.outside).map((interval) => ({ ...interval, words: wordsOf(interval, faults) })),
    events: ascending,
  };
}

type Bare = Omit<OutsideInterval, 'words'>;

function intervalsOf(seconds: readonly LoggedLevels[]): Bare[] {
  const intervals: Bare[] = [];
  for (const { atS, states, ...read } of seconds) {
    const state = (['over', 'under', 'lost'] as const).find((own) => states[own] > 0);
    if (!state) continue;
    const last = intervals.at(-1);
    if (last && last.endS === atS && last.state === state) {
      last.endS = atS + 1;
      last.maxTruePeakDbtp = higher(last.maxTruePeakDbtp, read.truePeakDbtp);
      last.maxShortTermLufs = higher(last.maxShortTermLufs, read.maxShortTermLufs);
      last.minShortTermLufs = lower(last.minShortTermLufs, read.minShortTermLufs);
    } else {
      intervals.push({
        state,
        startS: atS,
        endS: atS + 1,
        maxTruePeakDbtp: read.truePeakDbtp,
        minShortTermLufs: read.minShortTermLufs,
        maxShortTermLufs: read.maxShortTermLufs,
      });
    }
  }
  return intervals;
}

function lower(one: Level, other: Level): Level {
  if (one === null || other === null) return one ?? other;
  return Math.min(one, other);
}

/** What faults say that were there at the time. */
function wordsOf({ startS, endS }: Bare, faults: readonly LineEvent[]): string[] {
  const during = faults.filter(
    ({ startMs, endMs }) => startMs < endS * 1000 && (endMs ?? Number.POSITIVE_INFINITY) > startS * 1000,
  );
  return [...new Set(during.map(({ words }) => words))];
}
