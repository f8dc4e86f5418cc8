import type { Spec } from '../spec/spec';
import type { AlarmSettings } from './alarms/alarms';
import type { LineMoment } from './line-meter';
import { higher, type LineSecond, SecondGatherer } from './line-second';

/** How a second of a line stands to its spec, taken by itself; or that nothing came. */
export const SECOND_STATES = ['inside', 'over', 'under', 'lost'] as const;
export type SecondState = (typeof SECOND_STATES)[number];

/** A second by this machine's clock, as it is logged. */
export interface LoggedSecond extends LineSecond {
  /** Since 1970, in seconds. */
  atS: number;
  state: SecondState;
}

const LOST: LineSecond = {
  momentaryLufs: null,
  shortTermLufs: null,
  integratedLufs: null,
  loudnessRangeLu: null,
  truePeakDbtp: null,
  truePeaksDbtp: [],
};

/** Makes seconds of the 100 ms of a line: one for each that the clock counts, whether the line was there or not. */
export class SecondLog {
  readonly #gatherer = new SecondGatherer();
  #atS: number;
  #judged: { spec: Spec; settings: AlarmSettings };

  /** @param startMs by the clock, when the log begins */
  constructor(startMs: number, spec: Spec, settings: AlarmSettings) {
    this.#atS = Math.floor(startMs / 1000);
    this.#judged = { spec, settings };
  }

  /** Judges by others from here on. */
  judgeBy(spec: Spec, settings: AlarmSettings): void {
    this.#judged = { spec, settings };
  }

  /** Takes 100 ms that sounded at a time of the clock; returns the seconds that are over. */
  add(moment: LineMoment, clockMs: number): LoggedSecond[] {
    const over = this.until(clockMs);
    this.#gatherer.add(moment);
    return over;
  }

  /** Returns the seconds that are over at a time of the clock; those of which nothing came are lost. */
  until(clockMs: number): LoggedSecond[] {
    const seconds: LoggedSecond[] = [];
    for (const nowS = Math.floor(clockMs / 1000); this.#atS < nowS; this.#atS++) {
      const second = this.#gatherer.take();
      const state = second ? secondState(second, this.#judged.spec, this.#judged.settings) : 'lost';
      seconds.push({ ...(second ?? LOST), atS: this.#atS, state });
    }
    return seconds;
  }
}

/** Over the ceiling, or farther from the target than short-term loudness is allowed to be; silence is under. */
function secondState(second: LineSecond, { loudness, peak }: Spec, settings: AlarmSettings): SecondState {
  const truePeakDbtp = higher(...second.truePeaksDbtp);
  if (truePeakDbtp !== null && truePeakDbtp > peak.ceiling + peak.allowanceDb + 0.001) return 'over';
  if (loudness?.measure !== 'integrated') return 'inside';
  // Of a line that sounds, short-term loudness can be told after 3 s.
  if (second.shortTermLufs === null && truePeakDbtp !== null) return 'inside';
  const tolerance = settings.loudness.numbers.tolerance ?? Number.POSITIVE_INFINITY;
  const from = (second.shortTermLufs ?? Number.NEGATIVE_INFINITY) - loudness.target;
  return from > tolerance ? 'over' : from < -tolerance ? 'under' : 'inside';
}
