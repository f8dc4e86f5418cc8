import { PairSums } from '@/core/inspection/pair-figures';
import {
  type BandLevels,
  type BandReport,
  BandSums,
  bandBlockFrames,
  blockPlaces,
  thirdOctaves,
} from '@/core/inspection/third-octaves';
import { Limiter } from '@/core/limiter/limiter';
import { applyFades } from '@/core/treatment/steps/fade';
import { fadesOf } from '@/core/treatment/treatment';
import { dbToAmplitude } from '@/core/units/decibel';
import { createKernelCurveMaker } from '@/kernels/curve-kernel';
import type { BandsJob } from '../protocol';
import { ensureLimiting, LimitingFile } from './limiting-file';
import { withPrepared } from './prepare-file';
import { readPrepared } from './prepared-stretch';

/** A stretch of twenty seconds is read in full, and of a longer one so many blocks. */
const MOST_BLOCKS = 256;

/**
 * What each third of an octave of a stretch holds, before and behind the steps from the gain on, and how its two channels stand to each other
 * there. The limiter's curve is that of its forecast: corrections, of some hundredths of a decibel, are left out.
 */
export async function bandLevels(job: BandsJob): Promise<BandReport> {
  const { source, fileName, limitingPath, treatment, startFrame, frames } = job;
  const { gainDb, limit, outputGainDb } = treatment;
  if (limit && limitingPath !== null) {
    await ensureLimiting(source, limitingPath, { gainDb, ceilingDbtp: limit.ceilingDbtp }, { ...job, linking: limit });
  }
  return withPrepared(source, { fileName }, async (reader) => {
    const { sampleRateHz, channels, frames: programmeFrames } = reader.format;
    const file = limit && limitingPath !== null ? new LimitingFile(limitingPath) : null;
    try {
      const limiter =
        file &&
        limit &&
        new Limiter(file.peaks(), file.groups, sampleRateHz, { ...limit, gainDb }, createKernelCurveMaker());
      const blockFrames = bandBlockFrames(sampleRateHz);
      const stretch = { startFrame, endFrame: Math.min(programmeFrames, startFrame + frames) };
      const { places, isWhole } = blockPlaces(stretch, programmeFrames, blockFrames, MOST_BLOCKS);
      // A limiter has the gain in its curve.
      const amplitude = dbToAmplitude((limiter ? 0 : gainDb) + outputGainDb);
      const fades = fadesOf(treatment);
      const before = new BandSums(sampleRateHz, channels);
      // A gain alone moves all of it alike.
      const after = limiter || fades.fadeIn || fades.fadeOut ? new BandSums(sampleRateHz, channels) : null;
      const correlation = new Float32Array(channels === 2 ? places.length : 0);
      for (const [i, place] of places.entries()) {
        const planar = await readPrepared(reader, place, blockFrames, fileName);
        before.add(planar);
        limiter?.apply(planar, blockFrames, place);
        applyFades(planar, blockFrames, place, programmeFrames, fades);
        for (const samples of planar) {
          for (let n = 0; n < blockFrames; n++) samples[n] = amplitude * (samples[n] as number);
        }
        after?.add(planar);
        const [left, right] = planar;
        if (i < correlation.length && left && right) correlation[i] = correlationOf(left, right);
      }
      return {
        sampleRateHz,
        blockFrames,
        isWhole,
        startFrames: Float64Array.from(places),
        bandsHz: thirdOctaves(sampleRateHz).map(({ nominalHz }) => nominalHz),
        before: before.levelsDbfs(),
        after: after?.levelsDbfs() ?? movedBy(before.levelsDbfs(), gainDb + outputGainDb),
        correlation,
        pair: (after ?? before).pair(),
      };
    } finally {
      file?.close();
    }
  });
}

function movedBy({ belowDbfs, bandsDbfs }: BandLevels, gainDb: number): BandLevels {
  return { belowDbfs: belowDbfs + gainDb, bandsDbfs: bandsDbfs.map((level) => level + gainDb) };
}

/** NaN where a channel is silent. */
function correlationOf(left: Float32Array, right: Float32Array): number {
  const sums = new PairSums();
  sums.add(left, right);
  return sums.figures()?.correlation ?? Number.NaN;
}
