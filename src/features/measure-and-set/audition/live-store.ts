import { useSyncExternalStore } from 'react';
import { type LiveReadings, LiveTally } from '@/core/loudness/live-meter';
import { type LiveHistory, NO_HISTORY, withBin } from '@/features/common/gauge/live-history';
import type { FromWorklet } from '@/workers/browser/audition-messages';

export interface Live {
  readings: LiveReadings;
  /** What the limiter takes now, and at most since the readings were begun. */
  reductionDb: number;
  mostReductionDb: number;
  /** Something was heard since they were begun. */
  hasBegun: boolean;
  /** What grows with the programme stands still, though it is heard. */
  isHeld: boolean;
  history: LiveHistory;
}

const NOTHING: LiveReadings = new LiveTally(48_000).read();
const UNHEARD: Live = {
  readings: NOTHING,
  reductionDb: 0,
  mostReductionDb: 0,
  hasBegun: false,
  isHeld: false,
  history: NO_HISTORY,
};
/** How quickly the reduction that is shown comes back, in dB a report. */
const FALL_DB = 0.4;

/** What is read of what is heard, thirty times a second, beside what React draws. */
export class LiveStore {
  #sampleRateHz = 48_000;
  #tally = new LiveTally(this.#sampleRateHz);
  #clears = 0;
  #live = UNHEARD;
  /** Greatest of the reports since the last 100 ms became whole. */
  #binReductionDb = 0;
  readonly #listeners = new Set<() => void>();

  readonly get = (): Live => this.#live;

  readonly subscribe = (listener: () => void): (() => void) => {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  };

  /** Begins anew, at the rate that is heard from now on. */
  begin(sampleRateHz: number): void {
    this.#sampleRateHz = sampleRateHz;
    this.clear();
  }

  take({ bins, reductionDb, clears }: FromWorklet): void {
    if (clears !== this.#clears) {
      this.#clears = clears;
      this.clear();
    }
    this.#binReductionDb = Math.max(this.#binReductionDb, reductionDb);
    let { readings, history } = this.#live;
    for (const bin of bins) {
      this.#tally.add(bin);
      readings = this.#tally.read();
      history = withBin(history, { ...readings, reductionDb: this.#binReductionDb });
    }
    if (bins.length > 0) this.#binReductionDb = 0;
    const { mostReductionDb, hasBegun, isHeld } = this.#live;
    this.#set({
      isHeld,
      readings,
      history,
      reductionDb: Math.max(reductionDb, this.#live.reductionDb - FALL_DB, 0),
      mostReductionDb: isHeld ? mostReductionDb : Math.max(reductionDb, mostReductionDb),
      hasBegun: hasBegun || bins.length > 0,
    });
  }

  /** Holds the measuring, or has it go on. */
  setHeld(isHeld: boolean): void {
    if (isHeld) this.#tally.hold();
    else this.#tally.goOn();
    this.#set({ ...this.#live, isHeld });
  }

  /** Measures anew, unless it is held. */
  clear(): void {
    const { isHeld } = this.#live;
    this.#tally = new LiveTally(this.#sampleRateHz);
    if (isHeld) this.#tally.hold();
    this.#binReductionDb = 0;
    this.#set({ ...UNHEARD, isHeld });
  }

  #set(live: Live): void {
    this.#live = live;
    for (const listener of this.#listeners) listener();
  }
}

export function useLive(store: LiveStore): Live {
  return useSyncExternalStore(store.subscribe, store.get, store.get);
}
