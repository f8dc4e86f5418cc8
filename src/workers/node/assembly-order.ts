import type { ResolvedFormat } from '@/core/delivery/format';
import type { Tags } from '@/core/file-formats/tags';
import type { ReductionFigures } from '@/core/limiter/reduction';
import type { AssembledRole, Assembly, RecordForm } from '@/core/lineup/assembly';
import type { TrackRow } from '@/core/lineup/track-sheet';
import type { Readings } from '@/core/loudness/readings';
import type { Series } from '@/core/loudness/series';
import type { Verdict } from '@/core/spec/assessment';
import type { Spec } from '@/core/spec/spec';
import type { Limit } from '@/core/treatment/steps/limit';
import type { Treatment } from '@/core/treatment/treatment';
import type { AudioFormat } from '@/formats/audio-format';
import type { CueRecord } from '@/formats/cue-sheet/cue-sheet';
import type { Marker } from '@/formats/metadata';
import type { FileReport, PartFile, Progress, RenderReport } from '../protocol';
import type { DeliveryOrder, DeliverySteps } from './delivery-order';

export interface AssemblyOrder {
  /** An empty folder for what is written, and for all that is needed meanwhile. */
  folder: string;
  /** The name of the whole, without an extension. */
  stem: string;
  form: RecordForm;
  /** Chapters of a book: one MPEG-4 file of them is named `.m4b`. */
  isBook: boolean;
  /** Files that its tracks have already: the track sheet names them in place of what is written here. */
  trackFiles?: readonly TrackFile[];
  assembly: Assembly;
  record: CueRecord;
  /** Of each track's own file. */
  trackTags: readonly Tags[];
  format: ResolvedFormat;
  spec: Spec;
  /** Over the whole; null where programmes have their own, or none. */
  limit: Limit | null;
  cover?: DeliveryOrder['cover'];
  layoutId: string | null;
}

/** A file of one track, and what was read of it. */
export interface TrackFile {
  fileName: string;
  sha256: string;
  readings: Readings;
}

/** What is done by threads, or by whoever calls. */
export interface AssemblySteps {
  /** Writes a programme with its own treatment, as 32-bit floats. */
  renderMember(index: number, outputPath: string, onProgress: (progress: Progress) => void): Promise<RenderReport>;
  join(
    parts: PartFile[],
    frames: number,
    outputPath: string,
    onProgress: (progress: Progress) => void,
  ): Promise<unknown>;
  render(
    sourcePath: string,
    output: Parameters<DeliverySteps['render']>[0],
    treatment: Treatment,
    said: { tags: Tags; markers: Marker[] },
    onProgress: (progress: Progress) => void,
  ): Promise<RenderReport>;
  measure(
    path: string,
    origin: AudioFormat | null,
    onProgress: (progress: Progress) => void,
  ): Promise<{ report: Omit<FileReport, 'sha256'>; series: Series }>;
}

export interface AssemblyOptions {
  signal?: AbortSignal | undefined;
  onProgress?: ((progress: Progress) => void) | undefined;
}

/** A file of a record as it was written. */
export interface AssembledFile {
  fileName: string;
  role: AssembledRole;
  /** Counted from 1; null of what speaks of all tracks. */
  track: number | null;
  sizeBytes: number;
  sha256: string;
}

export interface Assembled {
  files: AssembledFile[];
  /** Of the whole: read from its file, or from what single files were cut from. */
  report: FileReport;
  verdict: Verdict;
  rows: TrackRow[];
  /** What the limiter over the whole took; null where there is none. */
  reduction: ReductionFigures | null;
}
