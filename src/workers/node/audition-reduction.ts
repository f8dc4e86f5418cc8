import { AppError } from '@/core/errors/app-error';
import { CURVE_BLOCK, PROGRAMME_RELEASE_MS } from '@/core/limiter/gain-curve';
import { type Excess, Limiter } from '@/core/limiter/limiter';
import { nodeFrames } from '@/core/limiter/peak-envelope';
import type { Limit } from '@/core/treatment/steps/limit';
import { createKernelCurveMaker } from '@/kernels/curve-kernel';
import type { ReductionJob, ReductionStretch } from '../protocol';
import { CeilingCheck } from './ceiling-check';
import { ensureLimiting, LimitingFile } from './limiting-file';
import { withPrepared } from './prepare-file';
import type { PreparedReader } from './prepared-reader';

/**
 * How far a correction is felt: by the floor that looks ahead and the release. Behind ten times the release less than a
 * ten-thousandth of it is left, and of a correction, which is some hundredths of a decibel, nothing that could be heard or
 * measured.
 */
const FELT_SECONDS = 0.5;
const FELT_RELEASES = 10;
/** What the windows of the ceiling's check reach over, and then some. */
const CUT_FRAMES = 256;

/**
 * A stretch of the gain reduction curve that a limiter will be rendered with, its corrections included. They are found in the stretch and in
 * what is near enough to be felt in it, so that one can listen anywhere at once.
 */
export async function auditionReduction(job: ReductionJob): Promise<ReductionStretch> {
  const { source, fileName, limitingPath, gainDb, limit, startFrame, frames } = job;
  await ensureLimiting(source, limitingPath, { gainDb, ceilingDbtp: limit.ceilingDbtp }, { ...job, linking: limit });
  return withPrepared(source, { fileName }, async (reader) => {
    const file = new LimitingFile(limitingPath);
    try {
      const { sampleRateHz, frames: programmeFrames } = reader.format;
      const endFrame = Math.min(programmeFrames, startFrame + frames);
      const limiter = await limiterWithin(reader, file, { gainDb, limit }, { startFrame, endFrame }, fileName);
      const width = nodeFrames(sampleRateHz);
      const startNode = Math.floor(startFrame / width);
      return {
        startFrame: startNode * width,
        nodeFrames: width,
        groups: file.groups.map(({ channels }) => channels),
        reductions: reductionsOf(limiter, startNode, Math.ceil(endFrame / width)),
      };
    } finally {
      file.close();
    }
  });
}

/** A limiter that is corrected for a stretch of its programme: there it does what the whole will be rendered with. */
export async function limiterWithin(
  reader: PreparedReader,
  file: LimitingFile,
  { gainDb, limit }: { gainDb: number; limit: Limit },
  { startFrame, endFrame }: { startFrame: number; endFrame: number },
  fileName: string,
): Promise<Limiter> {
  const { sampleRateHz, frames: programmeFrames } = reader.format;
  const { ceilingDbtp, link, lookAheadMs, releaseMs } = limit;
  const limited = { gainDb, ceilingDbtp, link, lookAheadMs, releaseMs };
  const limiter = new Limiter(file.peaks(), file.groups, sampleRateHz, limited, createKernelCurveMaker());
  const width = nodeFrames(sampleRateHz);
  const felt = (FELT_SECONDS + (FELT_RELEASES * (releaseMs ?? PROGRAMME_RELEASE_MS)) / 1000) * sampleRateHz;
  const from = Math.max(0, Math.floor((startFrame - felt) / width)) * width;
  const to = Math.min(programmeFrames, Math.ceil(endFrame + felt));
  while (limiter.raise(await excessesWithin(reader, limiter, from, to, fileName)));
  return limiter;
}

async function excessesWithin(
  reader: PreparedReader,
  limiter: Limiter,
  from: number,
  to: number,
  fileName: string,
): Promise<Excess[]> {
  const { sampleRateHz, channels } = reader.format;
  const check = new CeilingCheck(limiter, sampleRateHz, channels, from);
  reader.seek(from);
  while (reader.frame < to) {
    const startFrame = reader.frame;
    const piece = await reader.next();
    if (!piece) throw new AppError('source-changed', { fileName });
    const frames = Math.min(piece.frames, to - startFrame);
    limiter.apply(piece.channels, frames, startFrame);
    check.process(piece.channels, frames);
  }
  // Where the stretch was cut out of the programme, what is seen rings from the cut.
  const first = from === 0 ? 0 : from + CUT_FRAMES;
  const last = to === reader.format.frames ? Number.POSITIVE_INFINITY : to - CUT_FRAMES;
  const width = nodeFrames(sampleRateHz);
  return check.finish().filter(({ node }) => node * width >= first && node * width < last);
}

/** For each group, the reductions at the beginning of every node, and of the first behind them. */
export function reductionsOf(limiter: Limiter, startNode: number, endNode: number): Float32Array[] {
  const all = limiter.groups.map(() => new Float32Array(endNode - startNode + 1));
  for (let node = startNode; node < endNode; ) {
    const { from, reductions } = limiter.blockAt(Math.floor(node / CURVE_BLOCK));
    const count = Math.min(endNode - node, from + CURVE_BLOCK - node);
    reductions.forEach((own, group) => {
      // The last value is that of the next node, which the next block then writes again.
      all[group]?.set(own.subarray(node - from, node - from + count + 1), node - startNode);
    });
    node += count;
  }
  return all;
}
