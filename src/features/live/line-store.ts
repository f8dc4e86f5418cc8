import type { LineEvent } from '@/core/live/line-event';
import { addRecent, noLevels, type RecentLevels } from '@/core/live/recent-levels';
import type { LoggedSecond } from '@/core/live/second-log';
import { type LiveReadings, LiveTally } from '@/core/loudness/live-meter';
import { type LiveHistory, NO_HISTORY, withBin } from '@/features/common/gauge/live-history';
import type { LineTold, LiveLine } from '@/server/lines/live-lines';
import type { RecordingView } from '@/server/lines/recordings';

/** What is shown of a line now. */
export interface LineShown {
  live: LiveLine;
  readings: LiveReadings;
  reductionDb: number;
  history: LiveHistory;
  /** The latest first. */
  events: readonly LineEvent[];
  /** The latest first. */
  recordings: readonly RecordingView[];
}

const UNHEARD: LiveReadings = new LiveTally(48_000).read();
/** Of the last ten minutes. */
const RECENT_SECONDS = 600;
const MOST_EVENTS = 200;

/** What a line reads, ten times a second, beside what React draws. */
export class LineStore {
  #shown: LineShown;
  /** Written on, and read when it is drawn. */
  recent: RecentLevels = noLevels();
  /** That came since the page was opened, oldest first. */
  readonly seconds: LoggedSecond[] = [];
  readonly #listeners = new Set<() => void>();
  readonly #eventListeners = new Set<(event: LineEvent) => void>();

  constructor(live: LiveLine) {
    const readings = live.moment?.readings ?? UNHEARD;
    this.#shown = { live, readings, reductionDb: 0, history: NO_HISTORY, events: [], recordings: [] };
  }

  readonly get = (): LineShown => this.#shown;

  readonly subscribe = (listener: () => void): (() => void) => {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  };

  /** Calls the listener with each event that begins, goes farther or ends. */
  readonly onEvent = (listener: (event: LineEvent) => void): (() => void) => {
    this.#eventListeners.add(listener);
    return () => this.#eventListeners.delete(listener);
  };

  take(told: LineTold): void {
    if (told.kind === 'snapshot') {
      this.recent = told.recent;
      this.seconds.length = 0;
      const { events, recordings } = told;
      this.#set({ ...this.#of(told.live), history: historyOf(told.recent), events, recordings });
    } else if (told.kind === 'live') {
      this.#set(this.#of(told.live));
    } else if (told.kind === 'moments') {
      addRecent(this.recent, told.moments);
      let { history } = this.#shown;
      for (const { readings } of told.moments) history = withBin(history, { ...readings, reductionDb: 0 });
      const moment = told.moments.at(-1) ?? null;
      const live = { ...this.#shown.live, moment, momentMs: told.endMs, maximaMs: told.maximaMs, isHeld: told.isHeld };
      this.#set({ live, history, readings: moment?.readings ?? UNHEARD });
    } else if (told.kind === 'seconds') {
      this.seconds.push(...told.seconds);
      this.seconds.splice(0, this.seconds.length - RECENT_SECONDS);
      this.#set({ live: { ...this.#shown.live, transfer: told.transfer } });
    } else if (told.kind === 'event') {
      this.#takeEvent(told.event);
    } else {
      this.#set({ recordings: told.recordings });
    }
  }

  #takeEvent(event: LineEvent): void {
    const others = this.#shown.events.filter(({ id }) => id !== event.id);
    const events = [event, ...others].sort((a, b) => b.startMs - a.startMs).slice(0, MOST_EVENTS);
    const goingOn = this.#shown.live.open.filter(({ id }) => id !== event.id);
    const open = event.endMs === null ? [...goingOn, event] : goingOn;
    this.#set({ live: { ...this.#shown.live, open }, events });
    for (const listener of this.#eventListeners) listener(event);
  }

  #of(live: LiveLine): Partial<LineShown> {
    if (live.state === 'sounding') return { live, readings: live.moment?.readings ?? this.#shown.readings };
    if (live.state !== 'off') return { live, readings: withoutNow(live.moment?.readings ?? this.#shown.readings) };
    this.recent = noLevels();
    return { live, readings: UNHEARD, history: NO_HISTORY };
  }

  #set(change: Partial<LineShown>): void {
    this.#shown = { ...this.#shown, ...change };
    for (const listener of this.#listeners) listener();
  }
}

/** What was read of a line that nothing comes from now: what it read since the start, and nothing of this moment. */
function withoutNow(readings: LiveReadings): LiveReadings {
  const peaks = readings.peaks.map((peak) => ({ ...peak, nowDbtp: null }));
  return { ...readings, momentaryLufs: null, shortTermLufs: null, peaks };
}

/** What a gauge shows of the last seconds, of what was read before it was looked at. */
function historyOf({ momentaryLufs, shortTermLufs }: RecentLevels): LiveHistory {
  let history = NO_HISTORY;
  for (const [i, momentary] of momentaryLufs.slice(-100).entries()) {
    const shortTerm = shortTermLufs.slice(-100)[i] ?? null;
    history = withBin(history, { momentaryLufs: momentary, shortTermLufs: shortTerm, reductionDb: 0 });
  }
  return history;
}
