import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { AppError } from '@/core/errors/app-error';
import { downmixedChannels } from '@/core/treatment/steps/downmix';
import { isLevelOnly, type Treatment } from '@/core/treatment/treatment';
import { peekHeader } from '@/workers/node/measure-file';
import { prepareFile } from '@/workers/node/prepare-file';
import type { Audio } from './audio';
import type { MasterOptions } from './master-options';
import { preparingMessages as messages } from './messages';

/** What is left of a file once it has gone through the steps before its gain, in a folder of its own for as long as it is used. */
export async function withPrepared<T>(
  audio: Audio,
  { treatment }: Pick<MasterOptions, 'treatment'>,
  use: (prepared: Audio) => Promise<T>,
): Promise<T> {
  const folder = await mkdtemp(join(tmpdir(), 'opsimeter-'));
  try {
    return await use(await preparedAudio(audio, treatment, join(folder, 'prepared.wav')));
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

/**
 * Takes a file through the steps before its gain: itself where nothing of this is asked, else what is written at `path`.
 *
 * @throws AppError `usage` where a step cannot be, or as `prepareFile`
 */
export async function preparedAudio(audio: Audio, treatment: Treatment, path: string): Promise<Audio> {
  const { channels, frames } = audio.header.format;
  if (treatment.trim && treatment.trim.startFrame >= frames) {
    throw new AppError('usage', { reason: messages.nothingLeft });
  }
  const left = downmixedChannels(treatment.downmix, channels);
  if (treatment.mix !== 'stereo' && left !== 2) {
    throw new AppError('usage', { reason: messages.needsTwoChannels(treatment.mix, left) });
  }
  if (isLevelOnly(treatment)) return audio;
  await prepareFile(audio.path, path, treatment, { fileName: audio.file });
  // It is a file of its own now: what it was decoded from says nothing of its length.
  return { ...audio, path, header: await peekHeader(path, audio.file), origin: undefined };
}
