import type { RenderLayout } from '@/core/adm/render-layouts';
import type { StatedStart } from '@/core/delivery/start-time-code';
import type { ErrorRecord } from '@/core/errors/app-error';
import type { Tags } from '@/core/file-formats/tags';
import type { Evidence } from '@/core/findings/evidence';
import type { Finding } from '@/core/findings/finding';
import type { BandReport } from '@/core/inspection/third-octaves';
import type { Corrections } from '@/core/limiter/limiter';
import type { ReductionFigures } from '@/core/limiter/reduction';
import type { NullReading } from '@/core/lineup/null/null-test';
import type { Edges } from '@/core/loudness/edges';
import type { Readings } from '@/core/loudness/readings';
import type { Alignment } from '@/core/outboard/align-pass';
import type { DropOut } from '@/core/outboard/drop-outs';
import type { Spec } from '@/core/spec/spec';
import type { LimitedCurves, LimitedReadings, Limiting, MeasuredProgramme } from '@/core/treatment/limited-forecast';
import type { LevelOptions, LimitedSolution } from '@/core/treatment/limited-solver';
import type { ToneCandidate } from '@/core/treatment/room-tone';
import type { Limit } from '@/core/treatment/steps/limit';
import type { FrameSteps, Preparation, Treatment } from '@/core/treatment/treatment';
import type { Level } from '@/core/units/decibel';
import type { AudioFormat } from '@/formats/audio-format';
import type { Marker } from '@/formats/metadata';
import type { PreparedFacts, PreparedFormat, PreparedSource } from './node/prepared-reader';

export interface Progress {
  /** 0 to 1. */
  fraction: number;
  /** Seconds of audio done per second. */
  timesRealTime: number | null;
}

/** Everything that is known of a file after one pass over it. */
export interface FileReport {
  format: AudioFormat;
  readings: Readings;
  /** What findings are made from; absent in reports of older files. */
  evidence?: Evidence;
  /** In reports of such files only. */
  findings?: Finding[];
  /** Absent in reports of older files. */
  edges?: Edges;
  nonFiniteSamples: number;
  /** Frames that the header promises beyond those the file holds; absent in reports of older engines. */
  missingFrames?: number;
  /** What the file says of itself; absent where nobody has read it. */
  tags?: Tags;
  /** Size and SHA-256 of the bytes that the readings speak of; the hash is null where nobody has asked for it. */
  sizeBytes: number;
  sha256: string | null;
}

export interface MeasureJob {
  kind: 'measure';
  path: string;
  /** What a person calls the file. */
  fileName: string;
  /** The file's SHA-256 where it is known; else it is computed. */
  sha256: string | null;
  /** A layout chosen by hand. */
  layoutId: string | null;
  /** What the file was decoded from, if it was. */
  origin: AudioFormat | null;
  /** What was done to it here before, in words, where that is known without reading it. */
  treatedBefore: string | null;
  /** Where the series and the waveform are to be kept, if they are. */
  analysisPath: string | null;
}

/** To measure segments of a file for the thread that leads. */
interface HelpJob {
  kind: 'help';
  path: string;
  fileName: string;
}

interface RenderJob {
  kind: 'render';
  /** A file, that every step is done to; or one as a treatment prepares it, that the steps from the gain on are done to. */
  source: string | PreparedSource;
  /** The file whose history the written one goes on with. */
  historyPath: string;
  /** A name that is not taken; the file there is whole only when the job has ended well. */
  outputPath: string;
  fileName: string;
  treatment: Treatment;
  /** A layout chosen by hand, to be stated in the written file. */
  layoutId: string | null;
  /** WAV of 24 bits unless it is stated. */
  container?: 'WAV' | 'BW64' | 'AIFF' | undefined;
  bitDepth?: 16 | 24 | 32 | undefined;
  isDitherSilenced?: boolean | undefined;
  /** As in RenderOptions. */
  isForCoder?: boolean | undefined;
  withoutAdm?: boolean | undefined;
  writtenAtMs?: number | undefined;
  /** What the file is to say of itself. */
  tags?: Tags | undefined;
  /** Marks that a person has set, in frames of the source. */
  markers?: Marker[] | undefined;
  /** As in RenderOptions. */
  start?: StatedStart | undefined;
  /** As in LimitJob, for the treatment's linking; else it is looked for and not kept. */
  limitingPath?: string | undefined;
  /** As in RenderOptions. */
  followed?: Corrections | undefined;
}

export interface RenderReport {
  frames: number;
  /** Samples that would not have fit and were held at full scale. */
  clippedSamples: number;
  /** What a limiter has taken; null where there was none. */
  reduction: ReductionFigures | null;
  /** What its limiter's curve became, for stems to follow; null where there was none. */
  corrections: Corrections | null;
}

/** To measure what a treatment makes of a source before its gain, without writing it. */
export interface PrepareJob {
  kind: 'prepare';
  path: string;
  fileName: string;
  layoutId: string | null;
  preparation: Preparation;
  /** Where the source is kept at another rate, if it needs one. It is looked for there, and put there. */
  resampledPath: string;
  /** Where the series and the waveform are kept. */
  analysisPath: string;
}

/** What was found of a source as it is prepared. */
export interface PreparedReport {
  format: PreparedFormat;
  layout: string;
  readings: Readings;
  facts: PreparedFacts;
}

/** To work out a stretch of a limiter's gain reduction curve. */
export interface ReductionJob {
  kind: 'reduction';
  source: PreparedSource;
  fileName: string;
  layoutId: string | null;
  /** As in LimitJob, for the channel groups of these settings. */
  limitingPath: string;
  gainDb: number;
  limit: Limit;
  startFrame: number;
  frames: number;
}

/** What a limiter takes in a stretch of a programme. */
export interface ReductionStretch {
  /** First frame of the first node, no later than was asked for. */
  startFrame: number;
  nodeFrames: number;
  /** Channels that go down alike. */
  groups: number[][];
  /** For each group, in dB at the beginning of every node and of the one behind the last; straight lines in between. */
  reductions: Float32Array[];
}

/** To work out what a limiter could do for a source, without writing anything. */
export interface LimitJob {
  kind: 'limit';
  source: PreparedSource;
  fileName: string;
  layoutId: string | null;
  /** Where what a limiter needs to know of the source is kept; it is looked for there, and put there. */
  limitingPath: string;
  programme: MeasuredProgramme;
  /** The answers for a spec; what a limiter reaches within a reduction; or what comes of a gain and a limiter. */
  ask: Spec | { spec: Spec; maxReductionDb: number } | Limiting;
}

/** To each ask its answer; to those for a spec null where there is no level to move. */
export interface LimitReport {
  options?: LevelOptions | null;
  solution?: LimitedSolution | null;
  limited?: LimitedReadings & LimitedCurves;
}

/** To render a stretch of a programme, just as the whole would be. */
export interface StretchJob {
  kind: 'stretch';
  source: PreparedSource;
  fileName: string;
  layoutId: string | null;
  /** As in LimitJob; null where the treatment has no limiter. */
  limitingPath: string | null;
  treatment: Treatment;
  startFrame: number;
  frames: number;
}

export interface RenderedStretch {
  channels: Float32Array[];
  /** What the limiter takes, in dB, the most of all channels, evenly spaced over the stretch; empty where there is none. */
  reductionDb: Float32Array;
}

/** To find what each third of an octave of a stretch of a programme holds. */
export interface BandsJob extends Omit<StretchJob, 'kind'> {
  kind: 'bands';
}

/** A file in its place within a whole; of two that overlap, the crossfade is here. */
export interface PartFile {
  path: string;
  startFrame: number;
  frames: number;
  fadeInFrames: number;
  fadeOutFrames: number;
}

/** To add files up to one, each in its place: as `joinParts` has it. */
interface JoinJob {
  kind: 'join';
  parts: PartFile[];
  frames: number;
  outputPath: string;
}

/** A file of PCM samples in a null test. */
export interface NullFile {
  path: string;
  /** What a person calls it. */
  fileName: string;
  /** Frames by which it begins later than the others are counted from. */
  offsetFrames: number;
}

/** To compare a mix with the sum of its stems, with so much that may be left: as `nullFiles` has it. */
interface NullJob {
  kind: 'null';
  mix: NullFile;
  stems: NullFile[];
  toleranceDb?: number | undefined;
}

/** To read what a mix has in a stretch that the sum of its stems has not. */
interface ResidualJob {
  kind: 'residual';
  mix: NullFile;
  stems: NullFile[];
  startFrame: number;
  frames: number;
}

/** What a pass through outboard gear is made of. */
export interface PassFile {
  /** All that was recorded: the channels that were sent, then as many that came back. */
  path: string;
  fileName: string;
  /** Where the programme begins in it, and its length. */
  firstFrame: number;
  frames: number;
  /** So much was recorded behind it, for what comes late. */
  mostDelaySeconds: number;
  channelMask: number;
}

/** What was found of a pass. */
export interface PassReading extends Alignment {
  /** By how much louder it came back, by its mean power. */
  gainDb: Level;
  /** Greatest sample of what came back, in dBFS. */
  peakDbfs: Level;
  dropOuts: DropOut[];
}

/** To find when what was sent through outboard gear came back: as `alignPassFile` has it. */
interface AlignJob extends PassFile {
  kind: 'align';
  outputPath: string;
}

/** A programme of an audio definition for a layout, and where it is written: nothing may stand there. */
export interface RenderedFile {
  /** Null is of a definition without programmes: all of it. */
  programmeId: string | null;
  layout: RenderLayout;
  outputPath: string;
}

/** To render programmes of an audio definition, each to a file of its own. */
interface RenderAdmJob {
  kind: 'render-adm';
  path: string;
  fileName: string;
  renderings: RenderedFile[];
}

/** To find what room tone is made from. */
interface ToneJob {
  kind: 'tone';
  path: string;
  fileName: string;
  steps: FrameSteps;
}

export type WorkerJob =
  | MeasureJob
  | HelpJob
  | PrepareJob
  | RenderJob
  | LimitJob
  | ReductionJob
  | StretchJob
  | BandsJob
  | JoinJob
  | NullJob
  | ResidualJob
  | ToneJob
  | AlignJob
  | RenderAdmJob;
export type WorkerAnswer<J extends WorkerJob> = J extends MeasureJob
  ? FileReport
  : J extends RenderJob
    ? RenderReport
    : J extends LimitJob
      ? LimitReport
      : J extends PrepareJob
        ? PreparedReport & { source: PreparedSource }
        : J extends ReductionJob
          ? ReductionStretch
          : J extends StretchJob
            ? RenderedStretch
            : J extends BandsJob
              ? BandReport
              : J extends NullJob
                ? NullReading
                : J extends ResidualJob
                  ? Float32Array[]
                  : J extends ToneJob
                    ? ToneCandidate
                    : J extends AlignJob
                      ? PassReading
                      : undefined;

/** An error does not survive the way between threads as what it is; its record does. */
export type WorkerOutcome<J extends WorkerJob> = { answer: WorkerAnswer<J> } | { error: ErrorRecord };
