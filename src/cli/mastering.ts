import { rm } from 'node:fs/promises';
import { solveDrive } from '@/core/limiter/drive';
import { type ReductionFigures, reductionFigures } from '@/core/limiter/gain-trace';
import { envelopeFloor, Limiter } from '@/core/limiter/limiter';
import type { Measurement } from '@/core/loudness/programme';
import { specLoudness } from '@/core/spec/verdict';
import { roundGain } from '@/core/treatment/gain';
import { gainToCeiling, solveGain } from '@/core/treatment/solver';
import { type RenderOptions, readPeaks, renderFile } from '@/workers/node/render-file';
import type { FileReport } from '@/workers/protocol';
import { measure } from './measuring';
import type { MasterOptions } from './treatment-options';

/** A loudness this near to its target is on it. */
const SOLVED_WITHIN_LU = 0.05;
/** The forecast is a few tenths off at most: one pass tells by how much, and seldom is a third needed. */
const MOST_PASSES = 4;

export interface MasterSource {
  path: string;
  /** Must not exist; whatever goes wrong, nothing is left there. */
  outputPath: string;
  fileName: string;
  layoutId: string | null;
  before: FileReport;
  measurement: Measurement;
}

/** What stopped the gain where it is. */
type Stop = 'target' | 'ceiling' | 'short-term' | 'reduction' | 'asked';

export interface Mastered {
  gainDb: number;
  binding: Stop;
  /** Left to the target, in LU; 0 where it is reached or there is none. */
  shortfallLu: number;
  /** Null where there was no limiter. */
  reduction: ReductionFigures | null;
  /** Measured from the written file. */
  after: FileReport;
}

interface Plan {
  gainDb: number;
  /** What no correction may go beyond, and what stops it there. */
  mostGainDb: number;
  stop: Stop;
  /** Loudness gained by another decibel, in LU. */
  slope: number;
  peaks: Float32Array | null;
}

/**
 * Writes a source with the gain that its spec asks for and, where that is allowed, a limiter for what then exceeds the
 * ceiling. Written and measured until it is on the target, at most four times.
 *
 * @returns undefined where there is no level that a gain could move
 */
export async function master(source: MasterSource, options: MasterOptions): Promise<Mastered | undefined> {
  const plan = await planOf(source, options);
  if (!plan) return undefined;
  const { spec } = options;
  const { sampleRateHz } = source.before.format;
  let { gainDb } = plan;
  for (let pass = 1; ; pass++) {
    const limiter = plan.peaks && new Limiter(plan.peaks, sampleRateHz, { gainDb, ceilingDbtp: spec.peak.ceiling });
    await render(source, options, gainDb, limiter);
    const after = await measureWritten(source);
    const reached = specLoudness(after.readings, spec);
    const leftLu = spec.loudness && reached !== null ? spec.loudness.target - reached : 0;
    const next = roundGain(Math.min(plan.mostGainDb, gainDb + leftLu / plan.slope), 'down');
    const isOn = Math.abs(leftLu) <= SOLVED_WITHIN_LU;
    if (isOn || next === gainDb || plan.stop === 'asked' || pass === MOST_PASSES) {
      return {
        gainDb,
        binding: isOn && spec.loudness && plan.stop !== 'asked' ? 'target' : plan.stop,
        shortfallLu: leftLu > SOLVED_WITHIN_LU ? leftLu : 0,
        reduction: limiter && reductionFigures(limiter.trace),
        after,
      };
    }
    await rm(source.outputPath, { force: true });
    gainDb = next;
  }
}

async function planOf(source: MasterSource, options: MasterOptions): Promise<Plan | undefined> {
  const { before, measurement, path } = source;
  const { spec, maxReductionDb } = options;
  const { weightedPower } = measurement.series;
  const solution = solveGain(before.readings, weightedPower, spec);
  const { truePeakDbtp } = before.readings;
  const toCeiling = gainToCeiling(before.readings, spec);
  if (!solution || truePeakDbtp === null || toCeiling === null) return undefined;
  const { ceiling: ceilingDbtp } = spec.peak;
  const { sampleRateHz } = before.format;
  const mostGainDb = ceilingDbtp - truePeakDbtp + maxReductionDb;
  const peaksFor = (gainDb: number) => readPeaks(path, envelopeFloor({ gainDb, ceilingDbtp }));
  if (options.gainDb !== null) {
    const peaks = maxReductionDb > 0 ? await peaksFor(options.gainDb) : null;
    return { gainDb: options.gainDb, mostGainDb: options.gainDb, stop: 'asked', slope: 1, peaks };
  }
  const isWorthLimiting = maxReductionDb > 0 && solution.binding === 'ceiling' && spec.loudness !== undefined;
  if (!isWorthLimiting || !spec.loudness) {
    // What is faded or cut is a little softer: there may be room to make up for it.
    const mostGain = solution.binding === 'short-term' ? solution.gainDb : toCeiling;
    return { gainDb: solution.gainDb, mostGainDb: mostGain, stop: solution.binding, slope: 1, peaks: null };
  }
  const peaks = await peaksFor(mostGainDb);
  const drive = solveDrive({
    ...{ peaks, weightedPower, sampleRateHz, truePeakDbtp, ceilingDbtp, maxReductionDb },
    targetLufs: spec.loudness.target,
  });
  return { gainDb: roundGain(drive.gainDb, 'down'), mostGainDb, stop: 'reduction', slope: drive.slope, peaks };
}

/** Writes; with a limiter, until nothing exceeds the ceiling. */
async function render(
  { path, outputPath, fileName, layoutId, before }: MasterSource,
  { bitDepth, dither, fadeInSeconds, fadeOutSeconds, fadeShape }: MasterOptions,
  gainDb: number,
  limiter: Limiter | null,
): Promise<void> {
  const { sampleRateHz, frames } = before.format;
  const fade = (seconds: number) =>
    seconds > 0 ? { frames: Math.min(frames, Math.round(seconds * sampleRateHz)), shape: fadeShape } : undefined;
  const options: RenderOptions = {
    ...{ gainDb, fileName, layoutId, bitDepth, dither },
    container: /\.aif[fc]?$/i.test(fileName) ? 'AIFF' : 'WAV',
    fadeIn: fade(fadeInSeconds),
    fadeOut: fade(fadeOutSeconds),
    ...(limiter ? { limiter } : {}),
  };
  for (;;) {
    const { limitedPeaks } = await renderFile(path, outputPath, options);
    if (!limiter?.correct(limitedPeaks)) return;
    await rm(outputPath, { force: true });
  }
}

async function measureWritten({ outputPath, layoutId }: MasterSource): Promise<FileReport> {
  try {
    return (await measure(outputPath, { ...(layoutId === null ? {} : { layoutId }), hash: true })).report;
  } catch (error) {
    await rm(outputPath, { force: true });
    throw error;
  }
}
