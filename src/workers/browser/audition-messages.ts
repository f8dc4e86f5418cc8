import type { HeardBin } from '@/core/loudness/live-meter';
import type { Fades } from '@/core/treatment/steps/fade';
import type { ReductionStretch } from '../protocol';

/** Frames of a programme as it is prepared, from its frame `startFrame` on. */
export interface FramesPart {
  startFrame: number;
  channels: Float32Array[];
}

/** One way that a programme can be heard: a version of its treatment, or the source. */
export interface HeardVersion {
  /** Where its frames come from, and the gain reduction of its limiter, if it has one. */
  feedId: string;
  reductionId: string | null;
  gainDb: number;
  outputGainDb: number;
  fades: Fades;
  /** Frames of the programme as it is prepared. */
  frames: number;
  /** Of its channels in loudness: as many as it has. */
  weights: readonly number[];
  /** Frame of the timeline at which its first stands. The timeline counts the source's frames, at the rate that is heard. */
  startFrame: number;
  /** So that two versions are compared at equal loudness: 0 or less. */
  offsetDb: number;
}

/** How one listens, whatever is heard. */
export interface Listening {
  /** All channels as one. */
  mono: boolean;
  /** Only what the limiter takes away. */
  removedOnly: boolean;
}

export type ToWorklet =
  | { kind: 'frames'; feedId: string; part: FramesPart }
  | { kind: 'reduction'; reductionId: string; part: ReductionStretch }
  /** Of a feed or a reduction, takes the part away that begins at a frame; or all of them. */
  | { kind: 'forget'; id: string; startFrame: number | null }
  /** Passes to a version without a click. */
  | { kind: 'hear'; version: HeardVersion }
  | { kind: 'listen'; listening: Listening }
  | { kind: 'loop'; loop: { startFrame: number; endFrame: number } | null }
  /** Plays from a frame of the timeline. Orders to play and to pause are numbered, so that a report says which of them it knows. */
  | { kind: 'play'; frame: number; order: number }
  | { kind: 'pause'; order: number }
  /** Reads anew from here on. */
  | { kind: 'clear' };

export interface FromMixer {
  /** Number of the last order to play or to pause that had arrived. */
  order: number;
  /** Of the timeline, the next to be heard. */
  frame: number;
  /** It ended by itself. */
  hasEnded: boolean;
  isPlaying: boolean;
  /** Plays as soon as there is something to play. */
  isStarved: boolean;
  /** Since it began to sound: frames that were silent because they were not there in time. */
  missedFrames: number;
  /** What has become whole since the last report. */
  bins: HeardBin[];
  /** Greatest reduction since the last report. */
  reductionDb: number;
  /** How often the readings were begun anew. */
  clears: number;
}

export interface FromWorklet extends FromMixer {
  /** As its audio context counts, when that frame is to be heard, if it is played. */
  contextFrame: number;
}

export interface WorkletOptions {
  sampleRateHz: number;
  /** That are put out: at least as many as any version has. What has one is heard on all. */
  channels: number;
  /** As if they had been sent: for sound that is not to wait. */
  messages: ToWorklet[];
}

export const WORKLET_NAME = 'opsimeter-audition';
