import { rm } from 'node:fs/promises';
import { basename, join } from 'node:path';
import { decode } from '@/codecs/decode';
import { probe } from '@/codecs/probe';
import { isAppError } from '@/core/errors/app-error';
import type { PartFile } from '../protocol';
import type { AssemblySteps } from './assembly-order';
import { peekHeader } from './measure-file';

/**
 * Files that follow each other without a gap, as one file of samples for as long as it is used: those that are coded are decoded.
 *
 * @param folder for what is needed meanwhile
 * @throws AppError of a file that can't be read
 */
export async function withJoinedFiles<T>(
  paths: readonly string[],
  folder: string,
  joinParts: AssemblySteps['join'],
  use: (joinedPath: string) => Promise<T>,
  signal?: AbortSignal,
): Promise<T> {
  const joinedPath = join(folder, '.files-joined.part');
  const decoded: string[] = [];
  try {
    const parts: PartFile[] = [];
    let frames = 0;
    for (const path of paths) {
      const samplesPath = await samplesOf(path, decoded, signal);
      const { format } = await peekHeader(samplesPath, basename(path));
      parts.push({ path: samplesPath, startFrame: frames, frames: format.frames, fadeInFrames: 0, fadeOutFrames: 0 });
      frames += format.frames;
    }
    await joinParts(parts, frames, joinedPath, () => undefined);
    return await use(joinedPath);
  } finally {
    for (const path of [joinedPath, ...decoded]) await rm(path, { force: true });
  }
}

/** Where the samples of a file are: there, or where it was decoded to. */
async function samplesOf(path: string, decoded: string[], signal: AbortSignal | undefined): Promise<string> {
  const fileName = basename(path);
  try {
    await peekHeader(path, fileName);
    return path;
  } catch (error) {
    if (!isAppError(error, 'not-audio')) throw error;
    const decodedPath = `${path}.samples.part`;
    decoded.push(decodedPath);
    await decode(path, await probe(path, fileName), decodedPath, fileName, { signal });
    return decodedPath;
  }
}
