import { rm } from 'node:fs/promises';
import { basename, join } from 'node:path';
import { decode } from '@/codecs/decode';
import { probe } from '@/codecs/probe';
import { writtenFacts } from '@/core/delivery/facts';
import { AppError } from '@/core/errors/app-error';
import { FILE_FORMATS, isEncoded } from '@/core/file-formats/file-formats';
import type { Tags } from '@/core/file-formats/tags';
import type { Corrections } from '@/core/limiter/limiter';
import type { ReductionFigures } from '@/core/limiter/reduction';
import type { NullReading } from '@/core/lineup/null/null-test';
import { type StemsPlan, withToneAt, writtenToleranceDb } from '@/core/lineup/stems/stems';
import { plainName } from '@/core/lineup/track-name';
import { assess } from '@/core/spec/assess';
import type { Verdict } from '@/core/spec/assessment';
import type { Spec } from '@/core/spec/spec';
import type { ToneCandidate } from '@/core/treatment/room-tone';
import { type FrameSteps, preparationOf } from '@/core/treatment/treatment';
import type { AudioFormat } from '@/formats/audio-format';
import type { FileReport, NullFile, Progress, RenderReport } from '../protocol';
import type { AssembledFile, AssemblyOptions, AssemblySteps } from './assembly-order';
import { deliver } from './deliver-file';
import type { Delivered } from './delivery-order';
import { eachOf } from './each-of';
import { flush } from './place-file';
import { needsTone } from './room-tone';

/** A mix or a stem as it is read: PCM, of the mix's rate and channels. */
export interface StemFile {
  path: string;
  title: string;
  tags: Tags;
  frames: number;
  /** By how much it begins later than the mix; 0 of the mix. */
  offsetFrames: number;
}

export interface StemsOrder extends StemsPlan {
  /** An empty folder for what is written, and for all that is needed meanwhile. */
  folder: string;
  /** What the whole is called. */
  name: string;
  spec: Spec;
  /** The file of the mix, as it came. */
  source: Pick<AudioFormat, 'sampleRateHz' | 'bitDepth' | 'sampleFormat'>;
  mix: StemFile;
  stems: readonly StemFile[];
  layoutId: string | null;
}

/** How a stem follows its mix: the peaks that the mix was limited for, and what its curve became. */
interface Followed {
  limitingPath: string;
  corrections: Corrections | null;
}

/** What is done by threads, or by whoever calls. */
export interface StemsSteps extends Pick<AssemblySteps, 'join' | 'measure'> {
  render(
    ...args: [...Parameters<AssemblySteps['render']>, limiting?: { limitingPath: string; followed?: Corrections }]
  ): Promise<RenderReport>;
  findTone(path: string, steps: FrameSteps): Promise<ToneCandidate>;
  compare(mix: NullFile, stems: NullFile[], toleranceDb: number): Promise<NullReading>;
}

/** What written stems leave of their written master. */
export type WrittenNull = Pick<NullReading, 'nulls' | 'residualDb' | 'greatestResidualDb' | 'mixDb' | 'toleranceDb'>;

export interface WrittenStems {
  /** The master first. */
  files: AssembledFile[];
  /** Of the master. */
  report: FileReport;
  verdict: Verdict;
  /** What the limiter of the mix took, and with it of every stem; null where there is none. */
  reduction: ReductionFigures | null;
  residual: WrittenNull;
}

/** Parts of the work: the master, then the stems, then what they leave of it. */
const MASTER = 0.25;
const STEMS = 0.9;

/**
 * Writes a mix with its treatment as the master, and its stems with just that treatment: trimmed, faded and turned up alike, and down by
 * the gain reduction curve of the mix, so that they add up to it. Everything is read back, and the written stems are compared with the
 * written master. Whatever goes wrong, nothing is left in the folder but what a process leaves that is ended.
 *
 * @throws AppError as `deliver`
 */
export async function writeStems(
  order: StemsOrder,
  steps: StemsSteps,
  options: AssemblyOptions = {},
): Promise<WrittenStems> {
  const { folder, mix, stems, name, format, spec } = order;
  const extension = FILE_FORMATS[format.kind].extensions[0];
  const numbered = (number: number, title: string) => `${String(number).padStart(2, '0')} ${plainName(title)}`;
  const masterName = `${numbered(0, `${name} master`)}.${extension}`;
  const limitingPath = join(folder, '.limiting.part');
  const leftovers = [limitingPath];
  try {
    const treatment = await withToneOfMix(order, steps);
    const master = await writeOne(order, treatment, { ...mix, fileName: masterName }, null, steps, {
      ...options,
      onProgress: part(options, 0, MASTER),
    });
    const { delivered, corrections } = master;
    const files: AssembledFile[] = [];
    const done = stems.map(() => 0);
    await eachOf(stems, async (stem, i) => {
      if (options.signal?.aborted) throw new AppError('cancelled', {});
      const alignedPath = join(folder, `.aligned-${i + 1}.part`);
      leftovers.push(alignedPath);
      const isAligned = stem.offsetFrames === 0 && stem.frames === mix.frames;
      if (!isAligned) await steps.join([placed(stem)], mix.frames, alignedPath, () => undefined);
      const { file } = await writeOne(
        order,
        treatment,
        {
          ...stem,
          path: isAligned ? stem.path : alignedPath,
          fileName: `${numbered(i + 1, stem.title)}.${extension}`,
        },
        { limitingPath, corrections },
        steps,
        {
          ...options,
          onProgress: ({ fraction, timesRealTime }) => {
            done[i] = fraction;
            const share = done.reduce((sum, own) => sum + own, 0) / done.length;
            options.onProgress?.({ fraction: MASTER + (STEMS - MASTER) * share, timesRealTime });
          },
        },
      );
      files[i] = { ...file, track: i + 1 };
      await rm(alignedPath, { force: true });
    });
    const all = [master.file, ...files];
    const { nulls, residualDb, greatestResidualDb, mixDb, toleranceDb } = await compareWritten(
      order,
      all,
      steps,
      leftovers,
      options,
    );
    await flush(folder);
    const source = { ...order.source, frames: mix.frames };
    const facts = writtenFacts(delivered.report, { ...delivered, format, source });
    return {
      files: all,
      report: delivered.report,
      verdict: assess(spec, facts),
      reduction: delivered.reduction,
      residual: { nulls, residualDb, greatestResidualDb, mixDb, toleranceDb },
    };
  } finally {
    for (const path of leftovers) await rm(path, { force: true });
  }
}

/** Room tone is made of one place for all. */
async function withToneOfMix({ treatment, mix }: StemsOrder, steps: StemsSteps) {
  const { resampleHz: _, ...frameSteps } = preparationOf(treatment);
  return needsTone(frameSteps) ? withToneAt(treatment, await steps.findTone(mix.path, frameSteps)) : treatment;
}

function placed({ path, frames, offsetFrames }: StemFile) {
  return { path, startFrame: offsetFrames, frames, fadeInFrames: 0, fadeOutFrames: 0 };
}

/** Writes one file, reads it back, and leaves it under its own name. */
async function writeOne(
  { folder, format, spec, layoutId }: StemsOrder,
  treatment: StemsOrder['treatment'],
  { path, title, tags, fileName }: Pick<StemFile, 'path' | 'title' | 'tags'> & { fileName: string },
  followed: Followed | null,
  steps: StemsSteps,
  options: AssemblyOptions,
): Promise<{ file: AssembledFile; delivered: Delivered; corrections: Corrections | null }> {
  const limitingPath = followed?.limitingPath ?? join(folder, '.limiting.part');
  const said = { tags: { ...tags, title: tags.title || title }, markers: [] };
  let corrections: Corrections | null = null;
  const delivered = await deliver(
    {
      temporaryPath: join(folder, fileName),
      fileName,
      format,
      spec,
      tags: said.tags,
      cover: null,
      layoutId,
      treatment,
      landing: null,
    },
    {
      render: async (output, levels, onProgress) => {
        const follow = followed?.corrections ? { followed: followed.corrections } : {};
        const report = await steps.render(path, output, levels, said, onProgress, { limitingPath, ...follow });
        ({ corrections } = report);
        return report;
      },
      measure: async (writtenPath, origin, onProgress) => (await steps.measure(writtenPath, origin, onProgress)).report,
    },
    options,
  );
  const [file] = delivered.files;
  if (!file) throw new AppError('not-as-written', { fileName });
  const { sizeBytes, sha256 } = file;
  return { file: { fileName, role: 'audio', track: null, sizeBytes, sha256 }, delivered, corrections };
}

/** What the written stems leave of the written master, from their files. */
async function compareWritten(
  { folder, format }: StemsOrder,
  files: readonly AssembledFile[],
  steps: StemsSteps,
  leftovers: string[],
  options: AssemblyOptions,
): Promise<NullReading> {
  const opened: NullFile[] = [];
  for (const { fileName } of files) {
    const path = join(folder, fileName);
    const decodedPath = join(folder, `.${basename(fileName)}.decoded.part`);
    if (isEncoded(format.kind)) {
      leftovers.push(decodedPath);
      await decode(path, await probe(path, fileName), decodedPath, fileName, { signal: options.signal });
    }
    opened.push({ path: isEncoded(format.kind) ? decodedPath : path, fileName, offsetFrames: 0 });
  }
  const [master, ...stems] = opened as [NullFile, ...NullFile[]];
  part(options, STEMS, 1)({ fraction: 0, timesRealTime: null });
  return steps.compare(master, stems, writtenToleranceDb(format));
}

function part({ onProgress }: AssemblyOptions, from: number, to: number) {
  return ({ fraction, timesRealTime }: Progress) =>
    onProgress?.({ fraction: from + (to - from) * fraction, timesRealTime });
}
