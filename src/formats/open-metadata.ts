import { readAiffMetadata } from './aiff/metadata';
import type { ByteSource } from './bytes';
import type { Metadata } from './metadata';
import type { PcmHeader } from './pcm-header';
import { readWavMetadata } from './wav/metadata';

/** Reads what a file that we own the format of carries beside its samples. */
export function readPcmMetadata(source: ByteSource, { format }: PcmHeader): Promise<Metadata> {
  const isAiffKind = format.container === 'AIFF' || format.container === 'AIFF-C';
  return isAiffKind ? readAiffMetadata(source) : readWavMetadata(source, format.container !== 'RIFX');
}
