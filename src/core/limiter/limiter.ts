import { amplitudeToDb, dbToAmplitude } from '../units/decibel';
import { applyReduction } from './apply-reduction';
import {
  CURVE_BLOCK,
  type CurveBlock,
  type CurveMaker,
  type CurveSettings,
  curveBlock,
  curveBlocks,
  curveStretch,
  type NodePeaks,
} from './gain-curve';
import type { ChannelGroup } from './link';
import { nodeFrames } from './peak-envelope';
import { type ReductionFigures, ReductionMeter } from './reduction';

/** How often a gain reduction curve is made again where what it leaves still exceeds the ceiling. */
const MOST_CORRECTIONS = 3;
/** A peak that came out too high was seen too low, and is raised by a little more than it was. */
const RAISED_BY = 1.05;

/** A node that a limiter has left above the ceiling. */
export interface Excess {
  group: number;
  node: number;
  /** True peak, linear. */
  peak: number;
}

/** What a limiter's curve became by its corrections: with the same peaks and settings, it makes the same curve again. */
export interface Corrections {
  /** Peaks that were raised: group, node, and dBTP. */
  raised: [group: number, node: number, peakDbtp: number][];
  trimDb: number;
}

/** A true-peak limiter's way through one programme: its peaks, seen once, and the curve that they ask for. */
export class Limiter {
  readonly settings: CurveSettings;
  readonly groups: readonly ChannelGroup[];
  readonly #nodeFrames: number;
  readonly #peaks: RaisedPeaks;
  readonly #makeCurve: CurveMaker;
  #corrections = 0;
  /** What everything goes down by besides, once nothing else has helped. */
  #trimDb = 0;
  #block: (CurveBlock & { index: number }) | undefined;

  /**
   * @param peaks of the programme as it is, by PeakEnvelope, for each of the groups
   * @param makeCurve how a stretch of the curve is made: by the reference, or by the kernel
   */
  constructor(
    peaks: NodePeaks,
    groups: readonly ChannelGroup[],
    sampleRateHz: number,
    settings: CurveSettings,
    makeCurve: CurveMaker = curveStretch,
  ) {
    this.#makeCurve = makeCurve;
    this.#nodeFrames = nodeFrames(sampleRateHz);
    this.#peaks = new RaisedPeaks(peaks);
    this.groups = groups;
    this.settings = settings;
  }

  /** Of the ceiling, linear. */
  get ceiling(): number {
    return dbToAmplitude(this.settings.ceilingDbtp);
  }

  /** Turns frames up and down, in place. */
  apply(channels: readonly Float32Array[], frames: number, startFrame: number): void {
    const gain = dbToAmplitude(this.settings.gainDb - this.#trimDb);
    const blockFrames = CURVE_BLOCK * this.#nodeFrames;
    for (let done = 0; done < frames; ) {
      const frame = startFrame + done;
      const { from, reductions } = this.#blockAt(Math.floor(frame / blockFrames));
      const first = frame - from * this.#nodeFrames;
      const count = Math.min(frames - done, blockFrames - first);
      this.groups.forEach(({ channels: members }, group) => {
        const parts = members.map((channel) => (channels[channel] as Float32Array).subarray(done, done + count));
        const own = reductions[group] as Float32Array;
        applyReduction(parts, count, first, { reductions: own, nodeFrames: this.#nodeFrames, gain });
      });
      done += count;
    }
  }

  /**
   * Takes in what the curve has left, and makes another where that exceeds the ceiling: at most three times by raising the
   * peaks that were seen too low, and then, as a last resort, by turning everything down by what is left.
   *
   * @returns whether the curve has changed, so that the programme has to be limited anew
   */
  correct(excesses: readonly Excess[]): boolean {
    const isSpent = this.#corrections >= MOST_CORRECTIONS;
    if (!isSpent) return this.raise(excesses);
    const greatest = greatestPeak(excesses);
    if (greatest <= this.ceiling || this.#trimDb > 0) return false;
    this.#trimDb = amplitudeToDb(greatest / this.ceiling) as number;
    return true;
  }

  /** As `correct`, of a stretch alone: what is left there in the end is not turned down, since that is for all to answer. */
  raise(excesses: readonly Excess[]): boolean {
    const { ceiling } = this;
    if (greatestPeak(excesses) <= ceiling || this.#corrections === MOST_CORRECTIONS) return false;
    this.#corrections++;
    const raised = excesses
      .filter(({ peak }) => peak > ceiling)
      .map(({ group, node, peak }) => {
        const excessDb = amplitudeToDb(peak / ceiling) as number;
        return { group, node, peakDbtp: this.#answeredTo(group, node) + RAISED_BY * excessDb };
      });
    for (const { group, node, peakDbtp } of raised) this.#peaks.raise(group, node, peakDbtp);
    this.#block = undefined;
    return true;
  }

  corrections(): Corrections {
    return { raised: this.#peaks.raised(), trimDb: this.#trimDb };
  }

  /** Takes on what another limiter of the same peaks and settings has become. */
  restore({ raised, trimDb }: Corrections): void {
    for (const [group, node, peakDbtp] of raised) this.#peaks.raise(group, node, peakDbtp);
    this.#trimDb = trimDb;
    this.#block = undefined;
  }

  /** What the whole curve costs. */
  figures(): ReductionFigures {
    const meter = new ReductionMeter();
    for (let index = 0; index < curveBlocks(this.#peaks); index++)
      meter.add(this.#blockAt(index), this.#peaks.nodesPerSecond);
    const figures = meter.finish();
    if (this.#trimDb === 0) return figures;
    const [greatestDb, percentile95Db, meanDb] = [figures.greatestDb, figures.percentile95Db, figures.meanDb].map(
      (reductionDb) => reductionDb + this.#trimDb,
    ) as [number, number, number];
    return { ...figures, greatestDb, percentile95Db, meanDb, shareOfTime: 1 };
  }

  /** The curve itself, block by block. */
  blockAt(index: number): CurveBlock {
    return this.#blockAt(index);
  }

  /** The peak in dBTP that a node's present reduction would answer to. */
  #answeredTo(group: number, node: number): number {
    const { gainDb, ceilingDbtp } = this.settings;
    const { from, reductions } = this.#blockAt(Math.floor(node / CURVE_BLOCK));
    return ceilingDbtp - gainDb + ((reductions[group] as Float32Array)[node - from] as number);
  }

  #blockAt(index: number): CurveBlock {
    if (this.#block?.index !== index)
      this.#block = { index, ...curveBlock(this.#peaks, index, this.settings, this.#makeCurve) };
    return this.#block;
  }
}

function greatestPeak(excesses: readonly Excess[]): number {
  return excesses.reduce((most, { peak }) => Math.max(most, peak), 0);
}

/** Peaks of which some have been raised. */
class RaisedPeaks implements NodePeaks {
  readonly length: number;
  readonly nodesPerSecond: number;
  readonly domains: readonly number[];
  readonly #peaks: NodePeaks;
  readonly #raised: Map<number, number>[];

  constructor(peaks: NodePeaks) {
    this.#peaks = peaks;
    this.length = peaks.length;
    this.nodesPerSecond = peaks.nodesPerSecond;
    this.domains = peaks.domains;
    this.#raised = peaks.domains.map(() => new Map());
  }

  raise(group: number, node: number, peakDbtp: number): void {
    this.#raised[group]?.set(node, Math.max(peakDbtp, this.#raised[group]?.get(node) ?? Number.NEGATIVE_INFINITY));
  }

  raised(): Corrections['raised'] {
    return this.#raised.flatMap((nodes, group) =>
      [...nodes].map(([node, peakDbtp]): [number, number, number] => [group, node, peakDbtp]),
    );
  }

  read(group: number, from: number, to: number): Float32Array {
    const values = this.#peaks.read(group, from, to);
    const raised = this.#raised[group] as Map<number, number>;
    if (raised.size === 0) return values;
    const own = values.slice();
    for (const [node, peakDbtp] of raised) {
      if (node >= from && node < to) own[node - from] = Math.max(own[node - from] as number, peakDbtp);
    }
    return own;
  }
}
