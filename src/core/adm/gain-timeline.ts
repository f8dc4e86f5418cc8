import { type AdmBlock, ROUNDED_SECONDS } from './model';
import type { RenderItem } from './select-items';

/** Gains that hold from one frame to another, or move in a straight line. */
export interface GainStretch {
  /** Frames of the file, whole. */
  startFrame: number;
  /** Behind the last. */
  endFrame: number;
  from: readonly number[];
  to: readonly number[];
  /** What of the way is behind at the first frame, and how much each frame adds. */
  startShare: number;
  shareOfFrame: number;
}

/** Sums of times are wrong by less than this, and differ by more where they are meant to. */
const SAME_FRAME = 1e-4;

const firstFrame = (frame: number) => Math.ceil(frame - SAME_FRAME);

/**
 * The gains of an item along time (ITU-R BS.2127, 5 and 7, from memory). A block holds from its start for its duration. The gains of a loudspeaker's
 * channel hold for the whole block. Those of an object do so in its first block, and behind a gap; in any other they come from those before in a
 * straight line, over the whole block or as long as it says. Where there is no block, nothing is heard.
 *
 * @param item whose blocks stand in the order of time
 * @param gainsOf of a block for each channel, without its own gain and those of the objects
 * @param fileFrames of the file, which ends what has no end of its own
 */
export function* gainTimeline(
  item: RenderItem,
  gainsOf: (block: AdmBlock) => readonly number[],
  sampleRateHz: number,
  fileFrames: number,
): Generator<GainStretch> {
  const { blocks, type } = item.format;
  const itemStart = (item.startSeconds ?? 0) * sampleRateHz;
  const itemEnd =
    item.durationSeconds === null ? fileFrames : Math.min(fileFrames, itemStart + item.durationSeconds * sampleRateHz);
  const startOf = (block: AdmBlock) => itemStart + (block.startSeconds ?? 0) * sampleRateHz;
  let before: { gains: readonly number[]; end: number } | null = null;
  for (const [i, block] of blocks.entries()) {
    const start = startOf(block);
    if (start >= itemEnd) return;
    const following = blocks[i + 1];
    const end = endOf(block, start, itemEnd, sampleRateHz, following && startOf(following));
    const gains = gainsOf(block).map((gain) => gain * block.gain * item.gain);
    const comesFrom = before !== null && type === 'Objects' && before.end === start ? before.gains : null;
    // A jump may be rounded up beyond its block.
    const moves = block.jumpSeconds === null ? end - start : Math.min(end - start, block.jumpSeconds * sampleRateHz);
    const reached = comesFrom === null ? start : start + moves;
    const moving = stretch(start, Math.min(reached, itemEnd));
    if (comesFrom !== null && moving) {
      const shareOfFrame = 1 / moves;
      yield { ...moving, from: comesFrom, to: gains, startShare: (moving.startFrame - start) / moves, shareOfFrame };
    }
    const held = stretch(reached, Math.min(end, itemEnd));
    if (held) yield { ...held, from: gains, to: gains, startShare: 0, shareOfFrame: 0 };
    before = { gains, end };
  }
}

/** Where a block ends: with the start of the next one, where that is what its duration comes to. */
function endOf(
  { durationSeconds }: AdmBlock,
  start: number,
  itemEnd: number,
  sampleRateHz: number,
  nextStart: number | undefined,
): number {
  if (durationSeconds === null) return itemEnd;
  const end = start + durationSeconds * sampleRateHz;
  const follows = nextStart !== undefined && Math.abs(end - nextStart) <= ROUNDED_SECONDS * sampleRateHz;
  return follows ? nextStart : end;
}

/** Whole frames between two places in time; undefined where there is none. */
function stretch(start: number, end: number): { startFrame: number; endFrame: number } | undefined {
  const [startFrame, endFrame] = [Math.max(0, firstFrame(start)), firstFrame(end)];
  return endFrame > startFrame ? { startFrame, endFrame } : undefined;
}
