import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { AppError } from '@/core/errors/app-error';
import { peekHeader } from '@/workers/node/measure-file';
import { type Preparation, prepareFile } from '@/workers/node/prepare-file';
import type { Audio } from './measuring';
import type { MasterOptions } from './treatment-options';

/** What is left of a file once it was cut, mixed and freed of its means: the file itself where nothing of this is asked. */
export async function withPrepared<T>(
  audio: Audio,
  options: MasterOptions,
  use: (prepared: Audio) => Promise<T>,
): Promise<T> {
  const preparation = preparationOf(audio, options);
  if (!preparation) return use(audio);
  const folder = await mkdtemp(join(tmpdir(), 'opsimeter-'));
  try {
    const path = join(folder, 'prepared.wav');
    await prepareFile(audio.path, path, preparation);
    // It is a file of its own now: what it was decoded from says nothing of its length.
    return await use({ ...audio, path, header: await peekHeader(path, audio.file), origin: undefined });
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

function preparationOf({ header }: Audio, options: MasterOptions): Preparation | undefined {
  const { sampleRateHz, frames, channels } = header.format;
  const { startSeconds, endSeconds, mix, removeDc } = options;
  const startFrame = Math.round(startSeconds * sampleRateHz);
  const endFrame = endSeconds === null ? frames : Math.min(frames, Math.round(endSeconds * sampleRateHz));
  if (startFrame >= endFrame) throw new AppError('usage', { reason: 'Nothing is left between --start and --end' });
  if (mix !== 'stereo' && channels !== 2) {
    throw new AppError('usage', { reason: `--channels ${mix} needs two channels, and the file has ${channels}` });
  }
  const isUntouched = startFrame === 0 && endFrame === frames && mix === 'stereo' && !removeDc;
  return isUntouched ? undefined : { startFrame, endFrame, mix, removeDc };
}
