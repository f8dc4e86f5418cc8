import { rm, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { type ResolvedFormat, resolvedFormatSchema } from '@/core/delivery/format';
import { AppError } from '@/core/errors/app-error';
import { FILE_FORMATS, isLossy } from '@/core/file-formats/file-formats';
import { NO_TAGS, type Tags } from '@/core/file-formats/tags';
import type { ReductionFigures } from '@/core/limiter/reduction';
import { trackRange } from '@/core/lineup/assembly';
import { isCdAudio } from '@/core/lineup/cd';
import { plainName } from '@/core/lineup/track-name';
import { type TrackLevels, trackRows } from '@/core/lineup/track-sheet';
import type { Series } from '@/core/loudness/series';
import { assess } from '@/core/spec/assess';
import type { Verdict } from '@/core/spec/assessment';
import type { Limit } from '@/core/treatment/steps/limit';
import { gainOnly, type Treatment } from '@/core/treatment/treatment';
import { type CueRecord, cueSheetText } from '@/formats/cue-sheet/cue-sheet';
import { trackSheetCsv } from '@/formats/cue-sheet/track-sheet-csv';
import type { Marker } from '@/formats/metadata';
import type { FileReport, Progress } from '../protocol';
import { factsOf, levelsOf, trackLevels, withPeaksOf } from './assembly-levels';
import type { Assembled, AssembledFile, AssemblyOptions, AssemblyOrder, AssemblySteps } from './assembly-order';
import { contextAround } from './coded-extent';
import { deliver } from './deliver-file';
import type { Delivered, DeliveryOrder } from './delivery-order';
import { eachOf } from './each-of';
import { hashFile } from './hash-file';
import { hashSamples } from './pcm-file';
import { flush } from './place-file';

/** Parts of the work: programmes are rendered, joined, and the whole is written; then single files are. */
const RENDERED = 0.4;
const JOINED = 0.5;

/**
 * Writes programmes as one record: each with its own treatment, added up in their places, limited where that is asked, and written in its
 * format once. Single files are cut from what the continuous one would be, so that they join to it sample for sample. Everything is read
 * back. Whatever goes wrong, nothing is left in the folder but what a process leaves that is ended.
 *
 * @throws AppError as `deliver`; `source-changed` where a programme is not as long as was planned
 */
export async function writeAssembly(
  order: AssemblyOrder,
  steps: AssemblySteps,
  options: AssemblyOptions = {},
): Promise<Assembled> {
  const { folder, form, assembly, stem, record } = order;
  const joinedPath = join(folder, '.joined.part');
  const leftovers = [joinedPath, ...assembly.tracks.map((_, i) => memberPath(folder, i))];
  try {
    await renderMembers(order, steps, options);
    const parts = assembly.tracks.map(({ startFrame, endFrame, fadeInFrames, fadeOutFrames }, i) => ({
      path: memberPath(folder, i),
      startFrame,
      frames: endFrame - startFrame,
      fadeInFrames,
      fadeOutFrames,
    }));
    await steps.join(parts, assembly.frames, joinedPath, partOf(options, RENDERED, JOINED));
    for (const { path } of parts) await rm(path, { force: true });
    const written =
      form === 'continuous'
        ? await writeContinuous(order, joinedPath, steps, options)
        : await writeSingle(order, joinedPath, steps, options);
    const { trackFiles } = order;
    const whole = written.report.readings.integratedLufs;
    const levels = trackFiles?.map(({ readings }) => levelsOf(readings, whole)) ?? written.levels;
    const rows = trackRows(assembly, record.tracks, levels, trackFiles ?? written.files);
    const texts = [
      ...(form === 'continuous' && !trackFiles
        ? [['cue-sheet', `${stem}.cue`, cueSheetText(record, assembly, written.files[0]?.fileName ?? '')] as const]
        : []),
      ['track-sheet', `${stem}.csv`, trackSheetCsv(rows)] as const,
    ];
    const sheets: AssembledFile[] = [];
    for (const [role, fileName, text] of texts) {
      const path = join(folder, fileName);
      await writeFile(path, text, { flag: 'wx', flush: true });
      const { size: sizeBytes } = await stat(path);
      sheets.push({ fileName, role, track: null, sizeBytes, sha256: await hashFile(path) });
    }
    await flush(folder);
    const { report, verdict, reduction, files } = written;
    return { files: [...files, ...sheets], report, verdict, rows, reduction };
  } finally {
    for (const path of leftovers) await rm(path, { force: true });
  }
}

const memberPath = (folder: string, index: number) => join(folder, `.member-${index + 1}.part`);

async function renderMembers(
  { folder, assembly, record }: AssemblyOrder,
  steps: AssemblySteps,
  { signal, onProgress }: AssemblyOptions,
): Promise<void> {
  const done = assembly.tracks.map(() => 0);
  await eachOf(assembly.tracks, async ({ startFrame, endFrame }, i) => {
    if (signal?.aborted) throw new AppError('cancelled', {});
    const { frames } = await steps.renderMember(i, memberPath(folder, i), ({ fraction, timesRealTime }) => {
      done[i] = fraction;
      onProgress?.({ fraction: (RENDERED * sum(done)) / done.length, timesRealTime });
    });
    if (frames !== endFrame - startFrame)
      throw new AppError('source-changed', { fileName: record.tracks[i]?.title ?? '' });
  });
}

/** What is common to both ways. */
interface Written {
  files: AssembledFile[];
  report: FileReport;
  verdict: Verdict;
  levels: TrackLevels[];
  reduction: ReductionFigures | null;
}

async function writeContinuous(
  order: AssemblyOrder,
  joinedPath: string,
  steps: AssemblySteps,
  options: AssemblyOptions,
): Promise<Written> {
  const { assembly, format, spec, record, limit } = order;
  const fileName = `${order.stem}.${order.isBook && format.kind === 'm4a' ? 'm4b' : extensionOf(format)}`;
  const { catalogNumber, pregapSeconds, tracks } = record;
  const cueSheet = {
    assembly,
    catalogNumber,
    pregapSeconds,
    isrcs: tracks.map(({ isrc }) => isrc),
    isCdAudio: isCdAudio(format),
  };
  const whole = await writeOne(
    { ...order, fileName, format, tags: tagsOfWhole(record), cueSheet, markers: marksOf(order) },
    joinedPath,
    wholeTreatment(limit, format),
    steps,
    during(options, JOINED, 1),
  );
  const verdict = assess(spec, factsOf(whole.delivered, format, order));
  const levels = trackLevels(assembly, whole.series, whole.delivered.report);
  return { files: [whole.file], report: whole.delivered.report, verdict, levels, reduction: whole.delivered.reduction };
}

async function writeSingle(
  order: AssemblyOrder,
  joinedPath: string,
  steps: AssemblySteps,
  options: AssemblyOptions,
): Promise<Written> {
  const { assembly, format, spec, limit, folder, record, trackTags } = order;
  const { tracks } = assembly;
  const halfway = (JOINED + 1) / 2;
  // Samples as the files will have them; those that are coded get them as fine as they can be.
  const cut: ResolvedFormat = {
    ...resolvedFormatSchema.parse({ kind: 'wav', sampleRateHz: format.sampleRateHz, channels: format.channels }),
    bitDepth: format.bitDepth ?? 32,
    isDitherSilenced: format.isDitherSilenced,
  };
  const cutName = '.whole.part';
  const cutPath = join(folder, cutName);
  try {
    const whole = await writeOne(
      { ...order, fileName: cutName, format: cut, tags: NO_TAGS, markers: [] },
      joinedPath,
      wholeTreatment(limit, format),
      steps,
      during(options, JOINED, halfway),
    );
    await rm(joinedPath, { force: true });
    const files: AssembledFile[] = [];
    const reports: FileReport[] = [];
    const done = tracks.map(() => 0);
    await eachOf(tracks, async (_, i) => {
      const range = trackRange(assembly, i);
      const context = contextAround(format, range, assembly.frames);
      const { title } = record.tracks[i] as CueRecord['tracks'][number];
      const number = String(i + 1).padStart(2, '0');
      const single = await writeOne(
        {
          ...order,
          fileName: `${number} ${plainName(title)}.${extensionOf(format)}`,
          format,
          tags: trackTags[i] as Tags,
          markers: [],
          context,
        },
        cutPath,
        // Whatever is kept of the cut is kept bit by bit; only coders that take fewer bits have them dithered.
        {
          ...gainOnly(0),
          trim: { startFrame: range.startFrame - context.aheadFrames, endFrame: range.endFrame + context.behindFrames },
          dither: isLossy(format.kind) ? null : 'none',
        },
        steps,
        {
          ...options,
          onProgress: ({ fraction, timesRealTime }) => {
            done[i] = fraction;
            const part = sum(done) / done.length;
            options.onProgress?.({ fraction: halfway + (1 - halfway) * part, timesRealTime });
          },
        },
      );
      const { report, audioSha256 } = single.delivered;
      if (!isLossy(format.kind) && audioSha256 !== (await hashSamples(cutPath, range))) {
        throw new AppError('not-as-written', { fileName: single.file.fileName });
      }
      files[i] = { ...single.file, track: i + 1 };
      reports[i] = report;
    });
    const { integratedLufs } = whole.delivered.report.readings;
    const levels = reports.map(({ readings }) => levelsOf(readings, integratedLufs));
    const facts = factsOf({ ...whole.delivered, report: withPeaksOf(whole.delivered.report, reports) }, format, order);
    const [first] = reports as [FileReport];
    // The kind, the bit rate and the tags are those of the files; the levels are those of the whole.
    const ofFiles = factsOf({ ...whole.delivered, report: first }, format, order);
    const { file, bitRate, bitDepth, tags } = ofFiles;
    const verdict = assess(spec, { ...facts, file, bitRate, bitDepth, tags });
    return { files, report: whole.delivered.report, verdict, levels, reduction: whole.delivered.reduction };
  } finally {
    await rm(cutPath, { force: true });
  }
}

type OneOrder = Pick<AssemblyOrder, 'folder' | 'spec' | 'cover' | 'layoutId'> & {
  fileName: string;
  format: ResolvedFormat;
  tags: Tags;
  markers: Marker[];
  cueSheet?: DeliveryOrder['cueSheet'];
  context?: DeliveryOrder['context'];
};

/** Writes one file, reads it back, and leaves it under its own name. */
async function writeOne(
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

function wholeTreatment(limit: Limit | null, { dither }: ResolvedFormat): Treatment {
  return { ...gainOnly(0), limit, dither };
}

function tagsOfWhole({ title, artist }: CueRecord): Tags {
  return { ...NO_TAGS, title, artist, album: title };
}

/** Each track is marked where it begins. */
function marksOf({ assembly, record }: AssemblyOrder): Marker[] {
  return assembly.tracks.map(({ markFrame }, i) => ({
    frame: markFrame,
    lengthFrames: 0,
    label: record.tracks[i]?.title ?? '',
  }));
}

function extensionOf({ kind }: ResolvedFormat): string {
  return FILE_FORMATS[kind].extensions[0];
}

function partOf({ onProgress }: AssemblyOptions, from: number, to: number) {
  return ({ fraction, timesRealTime }: Progress) =>
    onProgress?.({ fraction: from + (to - from) * fraction, timesRealTime });
}

const during = (options: AssemblyOptions, from: number, to: number): AssemblyOptions => ({
  ...options,
  onProgress: partOf(options, from, to),
});

function sum(values: readonly number[]): number {
  return values.reduce((total, value) => total + value, 0);
}
