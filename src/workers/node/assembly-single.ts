import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import { type ResolvedFormat, resolvedFormatSchema } from '@/core/delivery/format';
import { AppError } from '@/core/errors/app-error';
import { isLossy } from '@/core/file-formats/file-formats';
import { NO_TAGS, type Tags } from '@/core/file-formats/tags';
import { trackRange } from '@/core/lineup/assembly';
import { plainName } from '@/core/lineup/track-name';
import { assess } from '@/core/spec/assess';
import { gainOnly } from '@/core/treatment/treatment';
import type { CueRecord } from '@/formats/cue-sheet/cue-sheet';
import type { FileReport } from '../protocol';
import { factsOf, levelsOf, withPeaksOf } from './assembly-levels';
import { during, extensionOf, JOINED, sum, type Written, wholeTreatment, writeOne } from './assembly-one';
import type { AssembledFile, AssemblyOptions, AssemblyOrder, AssemblySteps } from './assembly-order';
import { contextAround } from './coded-extent';
import { eachOf } from './each-of';
import { withJoinedFiles } from './joined-files';
import { hashSamples } from './pcm-file';

/** Writes a file for each track: cut from what the continuous file would be, so that they join to it sample for sample. */
export async function writeSingle(
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
    const report = isLossy(format.kind)
      ? await readTogether(order, whole.delivered.report, files, steps, options)
      : whole.delivered.report;
    const levels = reports.map(({ readings }) => levelsOf(readings, report.readings.integratedLufs));
    const facts = factsOf({ ...whole.delivered, report: withPeaksOf(report, reports) }, format, order);
    const [first] = reports as [FileReport];
    // The kind, the bit rate and the tags are those of the files; the levels are those of the whole.
    const ofFiles = factsOf({ ...whole.delivered, report: first }, format, order);
    const { file, bitRate, bitDepth, tags } = ofFiles;
    const verdict = assess(spec, { ...facts, file, bitRate, bitDepth, tags });
    return { files, report, verdict, levels, reduction: whole.delivered.reduction };
  } finally {
    await rm(cutPath, { force: true });
  }
}

/** What single files read, one after the other: to code them has changed what they were cut from. */
async function readTogether(
  { folder }: AssemblyOrder,
  cut: FileReport,
  files: readonly AssembledFile[],
  steps: AssemblySteps,
  { signal }: AssemblyOptions,
): Promise<FileReport> {
  const { report } = await withJoinedFiles(
    files.map(({ fileName }) => join(folder, fileName)),
    folder,
    steps.join,
    (joinedPath) => steps.measure(joinedPath, null, () => undefined),
    signal,
  );
  const { readings, edges } = report;
  return { ...cut, readings, ...(edges ? { edges } : {}) };
}
