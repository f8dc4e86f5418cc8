import { AppError } from '@/core/errors/app-error';
import { isAiff, readAiffHeader } from './aiff/header';
import { type ByteSource, readBytes } from './bytes';
import type { PcmHeader } from './pcm-header';
import { readWavHeader } from './wav/header';

/** Reads the header of any file that we own the format of; throws `not-audio` where it is none of them. */
export async function readPcmHeader(source: ByteSource, fileName: string): Promise<PcmHeader> {
  if (source.size === 0) throw new AppError('empty-file', { fileName });
  return isAiff(await readBytes(source, 0, 12)) ? readAiffHeader(source, fileName) : readWavHeader(source, fileName);
}
