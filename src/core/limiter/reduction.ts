import type { CurveBlock } from './gain-curve';

/** A stretch in which a limiter turns down. */
export interface ReducedStretch {
  fromSeconds: number;
  toSeconds: number;
  greatestDb: number;
}

/** What a gain reduction curve costs. */
export interface ReductionFigures {
  greatestDb: number;
  /** 95th percentile and mean of all that is turned down at all; 0 where nothing is. */
  percentile95Db: number;
  meanDb: number;
  /** Share of the time in which it is turned down by 0.1 dB or more. */
  shareOfTime: number;
  /** Those stretches, in order; no more than a thousand are kept. */
  stretches: ReducedStretch[];
}

const COUNTED_DB = 0.1;
/** Counts stand in classes of this width; the percentile is the middle of its class. */
const CLASS_DB = 0.01;
const CLASSES = 4000;
/** Stretches with less than this between them are one. */
const JOINED_SECONDS = 0.1;
const STRETCHES_KEPT = 1000;

/** Adds a gain reduction curve up, block by block. Of several groups of channels, the one that is turned down most counts. */
export class ReductionMeter {
  readonly #counts = new Uint32Array(CLASSES);
  readonly #stretches: ReducedStretch[] = [];
  #greatestDb = 0;
  #sumDb = 0;
  #counted = 0;
  #nodes = 0;
  #seconds = 0;

  /** @param nodesPerSecond of the curve that the block is the next part of */
  add({ from, reductions }: CurveBlock, nodesPerSecond: number): void {
    const curve = greatestOf(reductions);
    const count = curve.length - 1;
    const counts = this.#counts;
    let greatestDb = this.#greatestDb;
    let sumDb = 0;
    let counted = 0;
    // Nodes that are counted come in runs.
    let runFrom = -1;
    let runGreatestDb = 0;
    for (let k = 0; k < count; k++) {
      const reductionDb = curve[k] as number;
      if (reductionDb > greatestDb) greatestDb = reductionDb;
      if (reductionDb >= COUNTED_DB) {
        const place = Math.min(CLASSES - 1, Math.floor(reductionDb / CLASS_DB));
        counts[place] = (counts[place] as number) + 1;
        sumDb += reductionDb;
        counted++;
        if (runFrom < 0) {
          runFrom = k;
          runGreatestDb = 0;
        }
        if (reductionDb > runGreatestDb) runGreatestDb = reductionDb;
      } else if (runFrom >= 0) {
        this.#extend((from + runFrom) / nodesPerSecond, (from + k) / nodesPerSecond, runGreatestDb);
        runFrom = -1;
      }
    }
    if (runFrom >= 0) this.#extend((from + runFrom) / nodesPerSecond, (from + count) / nodesPerSecond, runGreatestDb);
    this.#greatestDb = greatestDb;
    this.#sumDb += sumDb;
    this.#counted += counted;
    this.#nodes += count;
    this.#seconds = (from + count) / nodesPerSecond;
  }

  /** Adds a programme that comes behind all that has been added. */
  absorb(other: ReductionMeter): void {
    other.#counts.forEach((count, place) => {
      this.#counts[place] = (this.#counts[place] as number) + count;
    });
    for (const { fromSeconds, toSeconds, greatestDb } of other.#stretches) {
      this.#extend(this.#seconds + fromSeconds, this.#seconds + toSeconds, greatestDb);
    }
    this.#greatestDb = Math.max(this.#greatestDb, other.#greatestDb);
    this.#sumDb += other.#sumDb;
    this.#counted += other.#counted;
    this.#nodes += other.#nodes;
    this.#seconds += other.#seconds;
  }

  finish(): ReductionFigures {
    const share = (part: number, whole: number) => (whole === 0 ? 0 : part / whole);
    return {
      greatestDb: this.#greatestDb,
      percentile95Db: this.#percentileDb(0.95),
      meanDb: share(this.#sumDb, this.#counted),
      shareOfTime: share(this.#counted, this.#nodes),
      stretches: this.#stretches,
    };
  }

  #extend(fromSeconds: number, toSeconds: number, greatestDb: number): void {
    const last = this.#stretches.at(-1);
    if (last && fromSeconds - last.toSeconds < JOINED_SECONDS) {
      last.toSeconds = toSeconds;
      last.greatestDb = Math.max(last.greatestDb, greatestDb);
    } else if (this.#stretches.length < STRETCHES_KEPT) {
      this.#stretches.push({ fromSeconds, toSeconds, greatestDb });
    }
  }

  #percentileDb(percentile: number): number {
    if (this.#counted === 0) return 0;
    let left = Math.max(1, Math.ceil(percentile * this.#counted));
    let place = -1;
    while (left > 0) left -= this.#counts[++place] as number;
    return Math.min(this.#greatestDb, (place + 0.5) * CLASS_DB);
  }
}

function greatestOf([first, ...others]: readonly Float32Array[]): Float32Array {
  if (!first) return new Float32Array(1);
  return others.length === 0
    ? first
    : first.map((value, k) => Math.max(value, ...others.map((own) => own[k] as number)));
}
