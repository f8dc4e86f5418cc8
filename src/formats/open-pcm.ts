import { AppError } from '@/core/errors/app-error';
import { isAiff, readAiffHeader } from './aiff/header';
import { type ByteSource, readBytes } from './bytes';
import type { PcmHeader } from './pcm-header';
import { readWavHeader } from './wav/header';

/**
 * Reads the header of any file that we own the format of; throws `not-audio` where it is none of them.
 *
 * @param mostChannels of a WAV; those that can be measured unless it is said
 */
export async function readPcmHeader(source: ByteSource, fileName: string, mostChannels?: number): Promise<PcmHeader> {
  if (source.size === 0) throw new AppError('empty-file', { fileName });
  if (isAiff(await readBytes(source, 0, 12))) return readAiffHeader(source, fileName);
  return readWavHeader(source, fileName, mostChannels);
}
