import { encodeArrays } from '@/formats/array-bundle';
import { withPrepared } from '@/workers/node/prepare-file';
import { readPrepared } from '@/workers/node/prepared-stretch';
import type { PreparedProgramme } from './prepared';

/** Frames that are read in one go, at most: some seconds, so that no page can fill the memory. */
export const MOST_FRAMES = 1 << 19;

/** Frames of a programme as it is prepared, as a bundle of one array for each channel; as far as there are any. */
export async function framesOf(
  { open, fileName, format }: PreparedProgramme,
  { startFrame, frames }: { startFrame: number; frames: number },
): Promise<Uint8Array> {
  const count = Math.max(0, Math.min(frames, MOST_FRAMES, format.frames - startFrame));
  const channels = await withPrepared(await open(), { fileName }, (reader) =>
    readPrepared(reader, startFrame, count, fileName),
  );
  return encodeArrays({
    meta: { startFrame },
    arrays: Object.fromEntries(channels.map((samples, channel) => [`channel${channel}`, samples])),
  });
}
