import { rm } from 'node:fs/promises';
import { AppError } from '@/core/errors/app-error';
import { solveDrive } from '@/core/limiter/drive';
import { type ReductionFigures, reductionFigures } from '@/core/limiter/gain-trace';
import { envelopeFloor, Limiter, MOST_CORRECTIONS } from '@/core/limiter/limiter';
import type { Measurement } from '@/core/loudness/programme';
import type { Spec } from '@/core/spec/spec';
import { specLoudness } from '@/core/spec/verdict';
import { readPeaks, renderFile } from '@/workers/node/render-file';
import type { FileReport } from '@/workers/protocol';
import { measure } from './measuring';

/** A loudness this near to its target is on it. */
export const SOLVED_WITHIN_LU = 0.05;
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

export interface Mastered {
  gainDb: number;
  /** Null where there was no limiter. */
  reduction: ReductionFigures | null;
  /** Measured from the written file. */
  after: FileReport;
}

/** Writes a source with a gain, and measures what was written. */
export async function masterWithGain(source: MasterSource, gainDb: number): Promise<Mastered> {
  const { path, outputPath, fileName, layoutId } = source;
  await renderFile(path, outputPath, { gainDb, fileName, layoutId });
  return { gainDb, reduction: null, after: await measureWritten(source) };
}

/**
 * Writes a source with the gain that reaches a spec's target, and a limiter at its ceiling for what then exceeds it: by
 * no more than is allowed. Written and measured until it is on the target, at most four times.
 */
export async function masterWithLimiter(source: MasterSource, spec: Spec, maxReductionDb: number): Promise<Mastered> {
  const { before, measurement, path } = source;
  const { truePeakDbtp } = before.readings;
  const { loudness, peak } = spec;
  if (truePeakDbtp === null || !loudness) {
    throw new AppError('nothing-to-measure', { reason: 'there is no peak, or no loudness to reach' });
  }
  const ceilingDbtp = peak.ceiling;
  const { sampleRateHz } = before.format;
  const mostGainDb = ceilingDbtp - truePeakDbtp + maxReductionDb;
  const peaks = await readPeaks(path, envelopeFloor({ gainDb: mostGainDb, ceilingDbtp }));
  const { weightedPower } = measurement.series;
  const { target: targetLufs } = loudness;
  const drive = solveDrive({
    ...{ peaks, weightedPower, sampleRateHz, truePeakDbtp, targetLufs, ceilingDbtp, maxReductionDb },
  });
  let { gainDb } = drive;
  for (let pass = 1; ; pass++) {
    const limiter = new Limiter(peaks, sampleRateHz, { gainDb, ceilingDbtp });
    await renderLimited(source, limiter);
    const after = await measureWritten(source);
    const reached = specLoudness(after.readings, spec);
    const leftLu = reached === null ? 0 : targetLufs - reached;
    const isStuck = leftLu > 0 && gainDb >= mostGainDb;
    if (Math.abs(leftLu) <= SOLVED_WITHIN_LU || isStuck || pass === MOST_PASSES) {
      return { gainDb, reduction: reductionFigures(limiter.trace), after };
    }
    await rm(source.outputPath, { force: true });
    gainDb = Math.min(mostGainDb, gainDb + leftLu / drive.slope);
  }
}

/** Writes until nothing exceeds the ceiling. */
async function renderLimited({ path, outputPath, fileName, layoutId }: MasterSource, limiter: Limiter): Promise<void> {
  const { gainDb } = limiter.settings;
  for (let corrections = 0; ; corrections++) {
    const { limitedPeaks } = await renderFile(path, outputPath, { gainDb, fileName, layoutId, limiter });
    if (corrections > MOST_CORRECTIONS) return;
    if (corrections === MOST_CORRECTIONS) limiter.trim(limitedPeaks);
    else if (!limiter.correct(limitedPeaks)) return;
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
