/** One file of a record: how it is written and read back, whether it is the whole or a track. */
import { join } from 'node:path';
import type { ResolvedFormat } from '@/core/delivery/format';
import { AppError } from '@/core/errors/app-error';
import { FILE_FORMATS } from '@/core/file-formats/file-formats';
import type { Tags } from '@/core/file-formats/tags';
import type { ReductionFigures } from '@/core/limiter/reduction';
import type { TrackLevels } from '@/core/lineup/track-sheet';
import type { Series } from '@/core/loudness/series';
import type { Verdict } from '@/core/spec/assessment';
import type { Limit } from '@/core/treatment/steps/limit';
import { gainOnly, type Treatment } from '@/core/treatment/treatment';
import type { Marker } from '@/formats/metadata';
import type { FileReport, Progress } from '../protocol';
import type { AssembledFile, AssemblyOptions, AssemblyOrder, AssemblySteps } from './assembly-order';
import { deliver } from './deliver-file';
import type { Delivered, DeliveryOrder } from './delivery-order';

/** Parts of the work: programmes are rendered, joined, and the whole is written; then single files are. */
export const RENDERED = 0.4;
export const JOINED = 0.5;

/** What is common to both ways. */
export interface Written {
  files: AssembledFile[];
  report: FileReport;
  verdict: Verdict;
  levels: TrackLevels[];
  reduction: ReductionFigures | null;
}

export type OneOrder = Pick<AssemblyOrder, 'folder' | 'spec' | 'cover' | 'layoutId'> & {
  fileName: string;
  format: ResolvedFormat;
  tags: Tags;
  markers: Marker[];
  cueSheet?: DeliveryOrder['cueSheet'];
  context?: DeliveryOrder['context'];
};

/** Writes one file, reads it back, and leaves it under its own name. */
export async function writeOne(
  { folder, fileName, format, spec, tags, markers, cueSheet, context, cover, layoutId }: OneOrder,
  sourcePath: string,
  treatment: Treatment,
  steps: AssemblySteps,
  options: AssemblyOptions,
): Promise<{ file: AssembledFile; delivered: Delivered; series: Series }> {
  let series: Series | undefined;
  const path = join(folder, fileName);
  const delivered = await deliver(
    { temporaryPath: path, fileName, format, spec, tags, cover, cueSheet, context, layoutId, treatment, landing: null },
    {
      render: (output, levels, onProgress) => steps.render(sourcePath, output, levels, { tags, markers }, onProgress),
      measure: async (writtenPath, origin, onProgress) => {
        const measured = await steps.measure(writtenPath, origin, onProgress);
        series = measured.series;
        return measured.report;
      },
    },
    options,
  );
  const [file] = delivered.files;
  if (!file || !series) throw new AppError('not-as-written', { fileName });
  const { sizeBytes, sha256 } = file;
  return { file: { fileName, role: 'audio', track: null, sizeBytes, sha256 }, delivered, series };
}

export function wholeTreatment(limit: Limit | null, { dither }: ResolvedFormat): Treatment {
  return { ...gainOnly(0), limit, dither };
}

export function extensionOf({ kind }: ResolvedFormat): string {
  return FILE_FORMATS[kind].extensions[0];
}

export function partOf({ onProgress }: AssemblyOptions, from: number, to: number) {
  return ({ fraction, timesRealTime }: Progress) =>
    onProgress?.({ fraction: from + (to - from) * fraction, timesRealTime });
}

export const during = (options: AssemblyOptions, from: number, to: number): AssemblyOptions => ({
  ...options,
  onProgress: partOf(options, from, to),
});

export function sum(values: readonly number[]): number {
  return values.reduce((total, value) => total + value, 0);
}
