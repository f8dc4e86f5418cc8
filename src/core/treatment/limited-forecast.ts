import { type FineSource, joinCosts, type LimiterCost, type LimiterLoops, limiterCost } from '../limiter/forecast';
import { type CurveSettings, MARGIN_DB } from '../limiter/gain-curve';
import type { ReductionFigures } from '../limiter/reduction';
import { integratedLufs } from '../loudness/gating';
import { loudestPassages } from '../loudness/loudest-passages';
import type { Readings } from '../loudness/readings';
import { MOMENTARY_BINS, SHORT_TERM_BINS, slidingMean } from '../loudness/series';
import { addGain, dbToPower, type Level, powerToDb } from '../units/decibel';
import { BINS_PER_SECOND } from '../units/frames';
import { gatedLevels, moveLevels } from './forecast';

/** A measured programme, as far as a gain or a limiter can be forecast from it. */
export interface MeasuredProgramme {
  readings: Readings;
  /** Weighted mean square of every complete 100 ms. */
  weightedPower: Float64Array;
  sampleRateHz: number;
  /** Of all channels together. */
  samples: number;
}

/** As the limiter's, and the usual ones where they are left out; a forecast is made for one set of them. */
export type LimiterTimes = Pick<CurveSettings, 'lookAheadMs' | 'releaseMs'>;

export interface Limiting extends LimiterTimes {
  gainDb: number;
  ceilingDbtp: number;
}

export interface LimitedReadings {
  readings: Readings;
  reduction: ReductionFigures;
}

/** What a limiter does along time, for every complete 100 ms. */
export interface LimitedCurves {
  /** Weighted mean square behind the limiter, before any gain. */
  weightedPower: Float64Array;
  /** Greatest reduction in dB, 0 or more. */
  reductionsDb: Float32Array;
}

/** Costs that are kept: what a solver asks for lies near what it has asked for before. */
const COSTS_KEPT = 64;

/**
 * What a programme reads after a gain and a limiter, without touching its audio: loudness within 0.05 LU up to 9 dB of
 * drive (measured: docs/limiter.md). What a limiter takes depends on how far the gain drives peaks over the ceiling, and
 * on neither by itself, so that it is kept by the difference of both.
 */
export class LimitedForecast {
  readonly programme: MeasuredProgramme;
  readonly #compute: (driveDb: number) => LimiterCost;
  readonly #costs = new Map<number, LimiterCost>();

  /** @param compute what a limiter takes at a drive: the gain less the ceiling */
  private constructor(programme: MeasuredProgramme, compute: (driveDb: number) => LimiterCost) {
    this.programme = programme;
    this.#compute = compute;
  }

  /** @param options.loops plain unless they are given */
  static of(
    programme: MeasuredProgramme,
    source: FineSource,
    { loops, times = {} }: { loops?: LimiterLoops | undefined; times?: LimiterTimes | undefined } = {},
  ): LimitedForecast {
    const { sampleRateHz, weightedPower } = programme;
    const format = { sampleRateHz, bins: weightedPower.length };
    const { lookAheadMs, releaseMs } = times;
    return new LimitedForecast(programme, (driveDb) =>
      limiterCost(source, format, { gainDb: driveDb, ceilingDbtp: 0, lookAheadMs, releaseMs }, loops),
    );
  }

  /** Programmes that are to have one gain and one limiter, read as one that follow each other: an album, or stems. */
  static joined(forecasts: readonly LimitedForecast[]): LimitedForecast {
    return new LimitedForecast(joinProgrammes(forecasts.map(({ programme }) => programme)), (driveDb) =>
      joinCosts(forecasts.map((forecast) => forecast.#costAt(driveDb))),
    );
  }

  at(limiting: Limiting): LimitedReadings {
    const { readings, weightedPower, sampleRateHz } = this.programme;
    const { gainDb, ceilingDbtp } = limiting;
    const cost = this.#costOf(limiting);
    const left = this.#powerLeft(cost);
    const moved = { ...moveLevels(readings, gainDb), ...gatedLevels(left, gainDb) };
    const peakDbtp = ceilingDbtp - MARGIN_DB;
    const held = (level: Level) => (level === null ? null : Math.min(level, peakDbtp));
    const truePeakDbtp = held(addGain(readings.truePeakDbtp, gainDb));
    const lostMaximum = (bins: number) => lostOfMaximum(weightedPower, left, bins);
    const passages = (seconds: number) =>
      loudestPassages(left, seconds * BINS_PER_SECOND, sampleRateHz).map((passage) => ({
        ...passage,
        lufs: passage.lufs + gainDb,
      }));
    return {
      readings: {
        ...moved,
        truePeakDbtp,
        samplePeakDbfs: held(moved.samplePeakDbfs),
        perChannel: moved.perChannel.map((channel) => ({
          ...channel,
          truePeakDbtp: held(channel.truePeakDbtp),
          samplePeakDbfs: held(channel.samplePeakDbfs),
        })),
        maxMomentaryLufs: addGain(moved.maxMomentaryLufs, -lostMaximum(MOMENTARY_BINS)),
        maxShortTermLufs: addGain(moved.maxShortTermLufs, -lostMaximum(SHORT_TERM_BINS)),
        rmsDbfs: addGain(this.#rmsDbfs(cost), gainDb),
        peakToLoudnessLu:
          truePeakDbtp === null || moved.integratedLufs === null ? null : truePeakDbtp - moved.integratedLufs,
        loudest3s: passages(3),
        loudest10s: passages(10),
      },
      reduction: cost.meter.finish(),
    };
  }

  integratedLufs(limiting: Limiting): Level {
    const power = dbToPower(limiting.gainDb);
    const left = this.#powerLeft(this.#costOf(limiting)).map((value) => value * power);
    return integratedLufs(slidingMean(left, MOMENTARY_BINS));
  }

  rmsDbfs(limiting: Limiting): Level {
    return addGain(this.#rmsDbfs(this.#costOf(limiting)), limiting.gainDb);
  }

  /** Greatest loudness of so many 100 ms. */
  maximumLufs(limiting: Limiting, bins: typeof MOMENTARY_BINS | typeof SHORT_TERM_BINS): Level {
    const { readings, weightedPower } = this.programme;
    const measured = bins === MOMENTARY_BINS ? readings.maxMomentaryLufs : readings.maxShortTermLufs;
    const lost = lostOfMaximum(weightedPower, this.#powerLeft(this.#costOf(limiting)), bins);
    return addGain(measured, limiting.gainDb - lost);
  }

  curves(limiting: Limiting): LimitedCurves {
    const cost = this.#costOf(limiting);
    return { weightedPower: this.#powerLeft(cost), reductionsDb: cost.reductionsDb };
  }

  greatestReductionDb(limiting: Limiting): number {
    return this.#costOf(limiting).meter.finish().greatestDb;
  }

  #costOf({ gainDb, ceilingDbtp }: Limiting): LimiterCost {
    return this.#costAt(Math.round((gainDb - ceilingDbtp) * 1000) / 1000);
  }

  #costAt(driveDb: number): LimiterCost {
    let cost = this.#costs.get(driveDb);
    if (!cost) {
      cost = this.#compute(driveDb);
      if (this.#costs.size === COSTS_KEPT) this.#costs.delete(this.#costs.keys().next().value as number);
      this.#costs.set(driveDb, cost);
    }
    return cost;
  }

  /** Power of every 100 ms once a limiter has taken its share, before any gain. */
  #powerLeft({ lostPower }: LimiterCost): Float64Array {
    return this.programme.weightedPower.map((power, bin) => Math.max(0, power - (lostPower[bin] as number)));
  }

  #rmsDbfs({ lostPlain }: LimiterCost): Level {
    const { readings, samples } = this.programme;
    if (readings.rmsDbfs === null) return null;
    return powerToDb(Math.max(0, dbToPower(readings.rmsDbfs) - lostPlain / samples));
  }
}

/** By how many LU the loudest window of so many 100 ms has become softer; 0 where there is none. */
function lostOfMaximum(before: Float64Array, after: Float64Array, bins: number): number {
  const greatest = (powers: Float64Array) =>
    slidingMean(powers, bins).reduce((most, power) => Math.max(most, power), 0);
  const [was, is] = [greatest(before), greatest(after)];
  return was > 0 && is > 0 ? 10 * Math.log10(was / is) : 0;
}

/** As one programme behind the other: the highest of their peaks and of their noise, the loudness of all. */
function joinProgrammes(programmes: readonly MeasuredProgramme[]): MeasuredProgramme {
  const [first] = programmes;
  if (!first) throw new RangeError('there is no programme to join');
  const highest = (
    key: 'truePeakDbtp' | 'samplePeakDbfs' | 'maxMomentaryLufs' | 'maxShortTermLufs' | 'noiseFloorDbfs',
  ) =>
    programmes.reduce<Level>((most, { readings: { [key]: level } }) => {
      return most === null || (level !== null && level > most) ? level : most;
    }, null);
  const weightedPower = Float64Array.from(programmes.flatMap(({ weightedPower: power }) => Array.from(power)));
  const samples = programmes.reduce((sum, programme) => sum + programme.samples, 0);
  const squares = programmes.reduce(
    (sum, { readings, samples: own }) => sum + (readings.rmsDbfs === null ? 0 : own * dbToPower(readings.rmsDbfs)),
    0,
  );
  const truePeakDbtp = highest('truePeakDbtp');
  const gated = gatedLevels(weightedPower, 0);
  return {
    weightedPower,
    samples,
    sampleRateHz: first.sampleRateHz,
    readings: {
      ...first.readings,
      ...gated,
      truePeakDbtp,
      samplePeakDbfs: highest('samplePeakDbfs'),
      maxMomentaryLufs: highest('maxMomentaryLufs'),
      maxShortTermLufs: highest('maxShortTermLufs'),
      noiseFloorDbfs: highest('noiseFloorDbfs'),
      rmsDbfs: powerToDb(squares / samples),
      peakToLoudnessLu:
        truePeakDbtp === null || gated.integratedLufs === null ? null : truePeakDbtp - gated.integratedLufs,
    },
  };
}
