import type { FileTags } from '@/codecs/tag';
import type { ResolvedFormat } from '@/core/delivery/format';
import type { Pass } from '@/core/delivery/next-pass';
import type { Tags } from '@/core/file-formats/tags';
import type { ReductionFigures } from '@/core/limiter/reduction';
import type { Spec } from '@/core/spec/spec';
import type { Landing } from '@/core/treatment/plan-levels';
import type { Limit } from '@/core/treatment/steps/limit';
import type { Treatment } from '@/core/treatment/treatment';
import type { AudioFormat } from '@/formats/audio-format';
import type { FlacCueSheet } from '@/formats/flac/cue-sheet-block';
import type { FileReport, Progress, RenderReport } from '../protocol';

export interface DeliveryOrder {
  /** What to write under while it is not whole; nothing may stand there. */
  temporaryPath: string;
  /** What a person calls the file. */
  fileName: string;
  format: ResolvedFormat;
  spec: Spec;
  /** What the file is to say of itself. */
  tags?: Tags | undefined;
  /** A picture for the kinds that carry one. */
  cover?: FileTags['cover'] | undefined;
  /** What is rendered ahead of its own frames and behind them, for a coder to go on from: it is not played. */
  context?: { aheadFrames: number; behindFrames: number } | undefined;
  /** Of several tracks, for the kinds that carry one of their own. */
  cueSheet?: FlacCueSheet | undefined;
  /** Of a file that is kept as it is: where it lies. One that is coded is not rendered then. */
  kept?: KeptFile | undefined;
  /** A layout that was chosen by hand for what is written; null where the channel mask tells it. */
  layoutId?: string | null | undefined;
  /** Where the gain and the ceiling start from. */
  treatment: Treatment;
  /** How a limiter is set that only coding makes necessary; the usual way unless it is said. */
  limiter?: Omit<Limit, 'ceilingDbtp'> | undefined;
  /** Null where the treatment is to be written as it is, wherever it lands. */
  landing: Landing | null;
}

/** A file, and its samples: the same, or what it is decoded to. They may not differ from what is handed over. */
export interface KeptFile {
  path: string;
  samplesPath: string;
  frames: number;
}

/** What is done by threads, or by whoever calls. */
export interface DeliverySteps {
  render(
    output: {
      path: string;
      container: 'WAV' | 'BW64' | 'AIFF';
      bitDepth: 16 | 24 | 32;
      isDitherSilenced: boolean;
      isForCoder: boolean;
      withoutAdm: boolean;
    },
    treatment: Treatment,
    onProgress: (progress: Progress) => void,
  ): Promise<RenderReport>;
  /** @param origin what the samples at `path` were decoded from, if they were */
  measure(
    path: string,
    origin: AudioFormat | null,
    onProgress: (progress: Progress) => void,
  ): Promise<Omit<FileReport, 'sha256'>>;
}

/** One file of a delivery, still under its temporary name. */
export interface WrittenFile {
  temporaryPath: string;
  /** Of the channel that it holds, where each has a file of its own. */
  channel: string | null;
  sizeBytes: number;
  sha256: string;
}

export interface Delivered {
  files: WrittenFile[];
  /** Of what was read back; of several files, taken together. */
  report: FileReport;
  treatment: Treatment;
  reduction: ReductionFigures | null;
  /** Every time that it was written, the last as it stands. */
  passes: Pass[];
  expectedFrames: number;
  /** As `hashSamples` has it, of what was read back. */
  audioSha256: string;
}

export interface DeliverOptions {
  signal?: AbortSignal | undefined;
  onProgress?: ((progress: Progress) => void) | undefined;
}
