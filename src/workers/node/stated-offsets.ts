import type { AudioFormat } from '@/formats/audio-format';
import { readFileMetadata } from './file-metadata';

/** A file as it came, with its own format. */
interface StatedFile {
  path: string;
  fileName: string;
  format: AudioFormat;
}

/**
 * By how many frames each file begins later than the first, by their time references; null unless every file states one, of one
 * day's recording. Throws as opening a file does.
 */
export async function statedOffsets(files: readonly StatedFile[]): Promise<number[] | null> {
  const references: number[] = [];
  for (const { path, fileName, format } of files) {
    const { timeReferenceFrames } = await readFileMetadata(path, fileName, format);
    if (timeReferenceFrames === null) return null;
    references.push(timeReferenceFrames);
  }
  const frames = Math.max(...files.map(({ format }) => format.frames));
  const [first = 0] = references;
  const isOneRecording = Math.max(...references) - Math.min(...references) < frames;
  return isOneRecording ? references.map((reference) => reference - first) : null;
}
