import { useSyncExternalStore } from 'react';
import { type LiveReadings, LiveTally } from '@/core/loudness/live-meter';
import type { FromWorklet } from '@/workers/browser/audition-messages';

export interface Live {
  readings: LiveReadings;
  /** What the limiter takes now, and at most since the readings were begun. */
  reductionDb: number;
  mostReductionDb: number;
  /** Something was heard since they were begun. */
  hasBegun: boolean;
}

const NOTHING: LiveReadings = new LiveTally(48_000).read();
/** How quickly the reduction that is shown comes back, in dB a report. */
const FALL_DB = 0.4;

/** What is read of what is heard, thirty times a second, beside what React draws. */
export class LiveStore {
  #sampleRateHz = 48_000;
  #tally = new LiveTally(this.#sampleRateHz);
  #clears = 0;
  #live: Live = { readings: NOTHING, reductionDb: 0, mostReductionDb: 0, hasBegun: false };
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
    for (const bin of bins) this.#tally.add(bin);
    const { readings, mostReductionDb, hasBegun } = this.#live;
    this.#set({
      readings: bins.length > 0 ? this.#tally.read() : readings,
      reductionDb: Math.max(reductionDb, this.#live.reductionDb - FALL_DB, 0),
      mostReductionDb: Math.max(reductionDb, mostReductionDb),
      hasBegun: hasBegun || bins.length > 0,
    });
  }

  clear(): void {
    this.#tally = new LiveTally(this.#sampleRateHz);
    this.#set({ readings: NOTHING, reductionDb: 0, mostReductionDb: 0, hasBegun: false });
  }

  #set(live: Live): void {
    this.#live = live;
    for (const listener of this.#listeners) listener();
  }
}

export function useLive(store: LiveStore): Live {
  return useSyncExternalStore(store.subscribe, store.get, store.get);
}
