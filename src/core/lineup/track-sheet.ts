import type { Level } from '../units/decibel';
import { type Assembly, cueTime, trackRange } from './assembly';

/** What a record says of one of its tracks, beside where it stands. */
export interface TrackText {
  title: string;
  artist: string;
  isrc: string;
}

/** What was read of a track. */
export interface TrackLevels {
  integratedLufs: Level;
  fromWholeLu: number | null;
  truePeakDbtp: Level;
}

/** One row of a track sheet. */
export interface TrackRow extends TrackText, TrackLevels {
  number: number;
  startFrame: number;
  /** In 1/75 s, as in a cue sheet; empty where there is no pause ahead of it. */
  pause: string;
  start: string;
  length: string;
  fileName: string;
  sha256: string;
}

/**
 * The rows of a track sheet, times as they are in the whole.
 *
 * @param files the whole's own, or one for each track
 */
export function trackRows(
  assembly: Assembly,
  texts: readonly TrackText[],
  levels: readonly TrackLevels[],
  files: readonly { fileName: string; sha256: string }[],
): TrackRow[] {
  const { sampleRateHz, tracks } = assembly;
  return tracks.map(({ markFrame, pauseFrame }, i) => {
    const { startFrame, endFrame } = trackRange(assembly, i);
    const { fileName, sha256 } = files[files.length === tracks.length ? i : 0] as { fileName: string; sha256: string };
    return {
      number: i + 1,
      ...(texts[i] as TrackText),
      ...(levels[i] as TrackLevels),
      startFrame,
      pause: pauseFrame === null ? '' : cueTime(pauseFrame, sampleRateHz),
      start: cueTime(markFrame, sampleRateHz),
      length: cueTime(endFrame - startFrame, sampleRateHz),
      fileName,
      sha256,
    };
  });
}
