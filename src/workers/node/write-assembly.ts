import { rm, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { AppError } from '@/core/errors/app-error';
import { NO_TAGS, type Tags } from '@/core/file-formats/tags';
import { isCdAudio } from '@/core/lineup/cd';
import { trackRows } from '@/core/lineup/track-sheet';
import { assess } from '@/core/spec/assess';
import { type CueRecord, cueSheetText } from '@/formats/cue-sheet/cue-sheet';
import { trackSheetCsv } from '@/formats/cue-sheet/track-sheet-csv';
import type { Marker } from '@/formats/metadata';
import { factsOf, levelsOf, trackLevels } from './assembly-levels';
import {
  during,
  extensionOf,
  JOINED,
  partOf,
  RENDERED,
  sum,
  type Written,
  wholeTreatment,
  writeOne,
} from './assembly-one';
import type { Assembled, AssembledFile, AssemblyOptions, AssemblyOrder, AssemblySteps } from './assembly-order';
import { writeSingle } from './assembly-single';
import { eachOf } from './each-of';
import { hashFile } from './hash-file';
import { flush } from './place-file';

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
