import { AppError } from '@/core/errors/app-error';
import type { Limiter } from '@/core/limiter/limiter';
import { nodeFrames } from '@/core/limiter/peak-envelope';
import { applyFades } from '@/core/treatment/steps/fade';
import { fadesOf } from '@/core/treatment/treatment';
import { dbToAmplitude } from '@/core/units/decibel';
import type { RenderedStretch, StretchJob } from '../protocol';
import { limiterWithin, reductionsOf } from './audition-reduction';
import { ensureLimiting, LimitingFile } from './limiting-file';
import { withPrepared } from './prepare-file';
import type { PreparedReader } from './prepared-reader';

/** Renders a stretch of a programme to floats: the same samples as in the whole, but for what is dithered last. */
export async function renderStretch(job: StretchJob): Promise<RenderedStretch> {
  const { source, fileName, limitingPath, treatment, startFrame, frames } = job;
  const { gainDb, limit } = treatment;
  if (limit && limitingPath !== null) {
    await ensureLimiting(source, limitingPath, { gainDb, ceilingDbtp: limit.ceilingDbtp }, { ...job, linking: limit });
  }
  return withPrepared(source, { fileName }, async (reader) => {
    const endFrame = Math.min(reader.format.frames, startFrame + frames);
    if (!limit || limitingPath === null) {
      return { channels: await treated(reader, null, job, endFrame), reductionDb: new Float32Array(0) };
    }
    const file = new LimitingFile(limitingPath);
    try {
      const limiter = await limiterWithin(reader, file, { gainDb, limit }, { startFrame, endFrame }, fileName);
      const channels = await treated(reader, limiter, job, endFrame);
      const width = nodeFrames(reader.format.sampleRateHz);
      const groups = reductionsOf(limiter, Math.floor(startFrame / width), Math.ceil(endFrame / width));
      const reductionDb = Float32Array.from(groups[0] ?? [], (_, i) =>
        Math.max(...groups.map((own) => Math.abs(own[i] ?? 0))),
      );
      return { channels, reductionDb };
    } finally {
      file.close();
    }
  });
}

async function treated(
  reader: PreparedReader,
  limiter: Limiter | null,
  { treatment, startFrame, fileName }: StretchJob,
  endFrame: number,
): Promise<Float32Array[]> {
  const { channels, frames: programmeFrames } = reader.format;
  // A limiter has the gain in its curve.
  const amplitude = dbToAmplitude((limiter ? 0 : treatment.gainDb) + treatment.outputGainDb);
  const fades = fadesOf(treatment);
  const stretch = Array.from({ length: channels }, () => new Float32Array(endFrame - startFrame));
  reader.seek(startFrame);
  while (reader.frame < endFrame) {
    const at = reader.frame;
    const piece = await reader.next();
    if (!piece) throw new AppError('source-changed', { fileName });
    const frames = Math.min(piece.frames, endFrame - at);
    limiter?.apply(piece.channels, frames, at);
    applyFades(piece.channels, frames, at, programmeFrames, fades);
    piece.channels.forEach((samples, channel) => {
      const target = stretch[channel] as Float32Array;
      for (let n = 0; n < frames; n++) target[at - startFrame + n] = amplitude * (samples[n] as number);
    });
  }
  return stretch;
}
