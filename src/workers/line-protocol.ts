/** What the thread that hears lines is asked, and what it tells. */
import type { ErrorRecord } from '@/core/errors/app-error';
import type { AlarmDetail } from '@/core/live/alarms/alarm';
import type { AlarmKind, AlarmSettings } from '@/core/live/alarms/alarms';
import type { LineInput } from '@/core/live/line';
import type { LineMoment } from '@/core/live/line-meter';
import type { MaximaMs } from '@/core/live/maxima-times';
import type { LoggedSecond } from '@/core/live/second-log';
import type { Spec } from '@/core/spec/spec';

/** What a line is heard with. */
export interface HeardLine {
  lineId: string;
  /** For words. */
  name: string;
  input: LineInput;
  spec: Spec;
  alarms: AlarmSettings;
}

/** A recording that is to begin. */
export interface RecordOrder {
  recordingId: string;
  path: string;
  /** 32 is float. */
  bitDepth: 24 | 32;
  /** Of what was heard already, the last so many seconds. */
  preRollSeconds: number;
}

/** Frames that a page sends of an input of its own machine. */
export interface PushedFrames {
  /** Of one opening of one input by one page. */
  sessionId: string;
  /** Of the first, since it was opened. */
  startFrame: number;
  sampleRateHz: number;
  channels: number;
  /** Interleaved, as 32-bit float, little-endian. */
  bytes: Uint8Array<ArrayBuffer>;
}

export type LineOrder =
  /** Opens a line, or hears one that is open with other settings. */
  | { kind: 'hear'; line: HeardLine }
  | { kind: 'end'; lineId: string }
  | { kind: 'hold'; lineId: string; isHeld: boolean }
  | { kind: 'reset'; lineId: string }
  | { kind: 'record'; lineId: string; order: RecordOrder }
  | { kind: 'stop-recording'; lineId: string }
  | { kind: 'marker'; lineId: string }
  | { kind: 'frames'; lineId: string; frames: PushedFrames };

export interface LineFormat {
  sampleRateHz: number;
  channels: number;
  /** Name of the layout, and of each channel. */
  layout: string;
  channelLabels: string[];
}

/** What is known of how a line comes. */
export interface LineTransfer {
  /** Since it was opened first. */
  frames: number;
  lostFrames: number;
  /** How much faster than this machine's clock it runs, in parts of a million; null before that is known. */
  driftPpm: number | null;
}

/** Of a recording, frames count from its start. */
export interface RecordingGap {
  startFrame: number;
  frames: number;
}

export interface RecordingState {
  recordingId: string;
  /** Of the file; 0 where none was begun. */
  sampleRateHz: number;
  /** In the file, which states them. */
  frames: number;
  clippedSamples: number;
  /** What never came; silence stands in its place. */
  gaps: RecordingGap[];
  markerFrames: number[];
  /** Why it ended by itself; undefined while it goes on, and where it was stopped. */
  failure: ErrorRecord | undefined;
}

export type LineNews = { lineId: string } & (
  | { kind: 'opening' }
  | { kind: 'sounding'; format: LineFormat; atMs: number }
  /** It could not be opened, or was lost; it is tried again. */
  | { kind: 'lost'; error: ErrorRecord; reason: string; atMs: number }
  | { kind: 'ended' }
  /** The last of them ended at a time of the clock. */
  | { kind: 'moments'; moments: LineMoment[]; isHeld: boolean; endMs: number; maximaMs: MaximaMs }
  | { kind: 'seconds'; seconds: LoggedSecond[]; transfer: LineTransfer }
  | { kind: 'alarm'; alarm: AlarmKind; startMs: number; endMs: number | null; detail: AlarmDetail }
  | { kind: 'gap'; startMs: number; frames: number; seconds: number }
  /** Counted within a recording, where one is under way. */
  | { kind: 'marker'; atMs: number; number: number }
  /** When its first frame sounded. */
  | { kind: 'recording'; state: RecordingState; startMs: number }
  | { kind: 'recorded'; state: RecordingState; startMs: number }
);
