import { probeMetadata } from '@/codecs/probe';
import { readId3 } from '@/codecs/tag';
import type { Tags } from '@/core/file-formats/tags';
import { type AudioFormat, needsDecoding } from '@/formats/audio-format';
import { chunksOf, readChunk } from '@/formats/chunks';
import { addTag, type Metadata } from '@/formats/metadata';
import { readPcmMetadata } from '@/formats/open-metadata';
import { readPcmHeader } from '@/formats/open-pcm';
import { statedTags } from '@/formats/stated-tags';
import { FileSource } from './file-bytes';

/** A tag with a picture of any usual size. */
const MOST_TAG_BYTES = 20_000_000;

/** What a file carries beside its samples, whatever its container. */
export async function readFileMetadata(path: string, fileName: string, format: AudioFormat): Promise<Metadata> {
  if (needsDecoding(format)) return probeMetadata(path, fileName, format);
  const file = await FileSource.open(path, fileName);
  try {
    const metadata = await readPcmMetadata(file, await readPcmHeader(file, fileName));
    if (!format.container.startsWith('AIFF')) return metadata;
    for await (const chunk of chunksOf(file, false)) {
      if (chunk.id.trim().toUpperCase() !== 'ID3') continue;
      const tag = await readChunk(file, chunk, MOST_TAG_BYTES);
      for (const [name, value] of await readId3(tag)) addTag(metadata, name, value);
    }
    return metadata;
  } finally {
    await file.close();
  }
}

/** What a file says of itself, as far as a spec can ask for it. */
export async function readFileTags(path: string, fileName: string, format: AudioFormat): Promise<Tags> {
  return statedTags(await readFileMetadata(path, fileName, format));
}
