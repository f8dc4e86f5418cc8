import { playOrder } from './order';

/** Addresses on a CD, and in a cue sheet, count frames of 1/75 s: 588 samples at 44.1 kHz (IEC 60908, from memory). */
export const CUE_FRAMES_PER_SECOND = 75;

/** How a line-up is written: as one file with its tracks marked, or as a file for each. */
export const RECORD_FORMS = ['continuous', 'single'] as const;
export type RecordForm = (typeof RECORD_FORMS)[number];
/**
 * Or as stems with their master, that add up; or as a book: its verified chapters, and one file of them all; or as a film, with verified
 * files in place of its sound.
 */
export const ASSEMBLY_FORMS = [...RECORD_FORMS, 'stems', 'book', 'film'] as const;
export type AssemblyForm = (typeof ASSEMBLY_FORMS)[number];

/** What the files of a record are. */
export const ASSEMBLED_ROLES = ['audio', 'sample', 'film', 'cue-sheet', 'track-sheet', 'certificate'] as const;
export type AssembledRole = (typeof ASSEMBLED_ROLES)[number];

/** Whether it is something to read: no sound. */
export function isSheet(role: AssembledRole): boolean {
  return role === 'cue-sheet' || role === 'track-sheet' || role === 'certificate';
}

/** One programme as it goes into a whole. */
export interface AssemblyMember {
  frames: number;
  /** Silence until the next one begins; negative for an overlap. */
  gapSeconds: number;
}

/** One programme in its place, in frames of the whole. */
interface AssemblyTrack {
  /** Where its audio begins, and where it ends. */
  startFrame: number;
  endFrame: number;
  /** Where players begin it (INDEX 01), and a file of its own does. */
  markFrame: number;
  /** Where the pause ahead of it begins (INDEX 00); null where there is none. */
  pauseFrame: number | null;
  /** Lengths of the crossfades with the programme ahead and the one behind; 0 where there is none. */
  fadeInFrames: number;
  fadeOutFrames: number;
}

/** Programmes of one rate as one whole. */
export interface Assembly {
  sampleRateHz: number;
  /** A whole number of 1/75 s where the rate has one: it ends with so little silence. */
  frames: number;
  tracks: AssemblyTrack[];
}

/**
 * Lays programmes out as one whole. No audio is moved to fit 1/75 s: only marks are, to at most that much ahead of their audio, so that
 * programmes without a gap stay joined and no beginning is cut off. A rate that 75 does not divide has its marks on the first samples.
 *
 * @throws {RangeError} where a programme is shorter than its overlaps, or so short that its mark would stand on that of the next
 */
export function planAssembly(members: readonly AssemblyMember[], sampleRateHz: number): Assembly {
  const gaps = members.map(({ gapSeconds }) => Math.round(gapSeconds * sampleRateHz));
  const order = playOrder(
    members.map(({ frames }) => frames),
    gaps,
  );
  const cueFrame = sampleRateHz % CUE_FRAMES_PER_SECOND === 0 ? sampleRateHz / CUE_FRAMES_PER_SECOND : 1;
  const down = (frame: number) => frame - (frame % cueFrame);
  const up = (frame: number) => down(frame + cueFrame - 1);
  const ends = order.starts.map((start, i) => start + (members[i] as AssemblyMember).frames);
  const overlapBehind = (i: number) => (i < members.length - 1 ? Math.max(0, -(gaps[i] ?? 0)) : 0);
  const tracks = order.starts.map((startFrame, i): AssemblyTrack => {
    const markFrame = down(startFrame);
    const pauseFrame = i === 0 ? markFrame : up(ends[i - 1] as number);
    return {
      startFrame,
      endFrame: ends[i] as number,
      markFrame,
      pauseFrame: pauseFrame < markFrame ? pauseFrame : null,
      fadeInFrames: i === 0 ? 0 : overlapBehind(i - 1),
      fadeOutFrames: overlapBehind(i),
    };
  });
  const frames = up(order.end);
  tracks.forEach(({ markFrame }, i) => {
    if (markFrame >= (tracks[i + 1]?.markFrame ?? frames)) throw new RangeError(`programme ${i + 1} is too short`);
  });
  return { sampleRateHz, frames, tracks };
}

/** What of the whole a track has as a file of its own: from its mark to the next, the pause behind it included. */
export function trackRange({ tracks, frames }: Assembly, index: number): { startFrame: number; endFrame: number } {
  const { markFrame } = tracks[index] as AssemblyTrack;
  return { startFrame: markFrame, endFrame: tracks[index + 1]?.markFrame ?? frames };
}

/** Such as `03:25:31`: minutes, seconds and 1/75 s, rounded down. */
export function cueTime(frame: number, sampleRateHz: number): string {
  const cueFrames = Math.floor((frame * CUE_FRAMES_PER_SECOND) / sampleRateHz);
  const seconds = Math.floor(cueFrames / CUE_FRAMES_PER_SECOND);
  const parts = [Math.floor(seconds / 60), seconds % 60, cueFrames % CUE_FRAMES_PER_SECOND];
  return parts.map((part) => String(part).padStart(2, '0')).join(':');
}
