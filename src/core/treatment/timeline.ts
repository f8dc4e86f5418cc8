import { trimmedRange } from './steps/trim';
import type { Treatment } from './treatment';

/** Where the frames of a treated programme lie on the timeline of its source. */
export interface Timeline {
  /** Treated frames in one of the source. */
  ratio: number;
  /** First frame of the source that is kept, and the one behind the last. */
  keptStart: number;
  keptEnd: number;
  /** Where the treated programme begins and ends with what is added ahead and behind, in frames of the source: ahead of 0 and behind its end too. */
  startFrame: number;
  endFrame: number;
  /** All that there is to be seen: the source and what is added. */
  firstFrame: number;
  lastFrame: number;
}

type Placing = Pick<Treatment, 'trim' | 'resampleHz' | 'paddingStart' | 'paddingEnd'>;

export function timelineOf(
  { trim, resampleHz, paddingStart, paddingEnd }: Placing,
  { frames, sampleRateHz }: { frames: number; sampleRateHz: number },
): Timeline {
  const ratio = (resampleHz ?? sampleRateHz) / sampleRateHz;
  const { startFrame: keptStart, endFrame: keptEnd } = trimmedRange(trim, frames);
  const startFrame = keptStart - (paddingStart?.frames ?? 0) / ratio;
  const endFrame = keptEnd + (paddingEnd?.frames ?? 0) / ratio;
  return {
    ratio,
    keptStart,
    keptEnd,
    startFrame,
    endFrame,
    firstFrame: Math.min(0, startFrame),
    lastFrame: Math.max(frames, endFrame),
  };
}

/** The frame of the source at which a treated one is heard. */
export function toSourceFrame({ startFrame, ratio }: Timeline, treatedFrame: number): number {
  return startFrame + treatedFrame / ratio;
}

export function toTreatedFrame({ startFrame, ratio }: Timeline, sourceFrame: number): number {
  return (sourceFrame - startFrame) * ratio;
}
