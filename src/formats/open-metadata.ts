import { readAiffMetadata } from './aiff/metadata';
import { isWavKind } from './audio-format';
import type { ByteSource } from './bytes';
import type { Metadata } from './metadata';
import type { PcmHeader } from './pcm-header';
import { readWavMetadata } from './wav/metadata';

/** Reads what a file that we own the format of carries beside its samples. */
export function readPcmMetadata(source: ByteSource, { format }: PcmHeader): Promise<Metadata> {
  return isWavKind(format) ? readWavMetadata(source, format.container !== 'RIFX') : readAiffMetadata(source);
}
