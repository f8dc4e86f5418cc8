import { probeMetadata } from '@/codecs/probe';
import { type AudioFormat, needsDecoding } from '@/formats/audio-format';
import type { Metadata } from '@/formats/metadata';
import { readPcmMetadata } from '@/formats/open-metadata';
import { readPcmHeader } from '@/formats/open-pcm';
import { FileSource } from './file-bytes';

/** What a file carries beside its samples, whatever its container. */
export async function readFileMetadata(path: string, fileName: string, format: AudioFormat): Promise<Metadata> {
  if (needsDecoding(format)) return probeMetadata(path, fileName, format);
  const file = await FileSource.open(path, fileName);
  try {
    return await readPcmMetadata(file, await readPcmHeader(file, fileName));
  } finally {
    await file.close();
  }
}
