import type { ResolvedFormat } from '@/core/delivery/format';
import { FILE_FORMATS, type FileKind } from '@/core/file-formats/file-formats';
import type { DeliveryOrder } from './delivery-order';
import type { Extent } from './extent';
import { stateMp3Extent } from './mp3-file';
import { stateMp4Extent } from './mp4-file';
import { stateOpusExtent } from './opus-file';

const STATED: Partial<Record<FileKind, (path: string, extent: Extent) => Promise<void>>> = {
  mp3: stateMp3Extent,
  m4a: stateMp4Extent,
  opus: stateOpusExtent,
};

/** Has a file that was just coded say where its sound begins and ends, in the way of its kind. It is not flushed. */
export async function stateExtent(path: string, kind: FileKind, extent: Extent): Promise<void> {
  await STATED[kind]?.(path, extent);
}

/** What a coder is given around a file that is cut from a longer one: as much as its kind can leave out again, and as there is. */
export function contextAround(
  { kind, sampleRateHz }: ResolvedFormat,
  { startFrame, endFrame }: { startFrame: number; endFrame: number },
  frames: number,
): NonNullable<DeliveryOrder['context']> {
  const wanted = FILE_FORMATS[kind].context?.(sampleRateHz) ?? { aheadFrames: 0, behindFrames: 0 };
  return {
    aheadFrames: startFrame >= wanted.aheadFrames ? wanted.aheadFrames : 0,
    behindFrames: Math.min(wanted.behindFrames, frames - endFrame),
  };
}
