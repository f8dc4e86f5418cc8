import { rm, stat } from 'node:fs/promises';
import { isTagged, tagFile } from '@/codecs/tag';
import { AppError } from '@/core/errors/app-error';
import { FILE_FORMATS, isEncoded } from '@/core/file-formats/file-formats';
import { NO_TAGS } from '@/core/file-formats/tags';
import { channelLayout } from '@/core/loudness/channel-layout';
import type { AudioFormat } from '@/formats/audio-format';
import type { Delivered, DeliveryOrder, WrittenFile } from './delivery-order';
import { besides, splitPaths } from './delivery-paths';
import { readFileTags } from './file-metadata';
import { insertCueSheet } from './flac-file';
import { hashFile } from './hash-file';
import { hashSamples, stampLoudness } from './pcm-file';
import { flush } from './place-file';
import type { WrittenOnce } from './write-delivery';

/** Gives a written delivery what it says of itself, and hashes what is there in the end. */
export async function finish(
  { temporaryPath, fileName, format, tags = NO_TAGS, cover = null, cueSheet, layoutId = null }: DeliveryOrder,
  { report, rendered, chapters, audioSha256 }: WrittenOnce,
  signal: AbortSignal | undefined,
): Promise<Omit<Delivered, 'treatment' | 'passes'>> {
  const isSplit = format.arrangement === 'split';
  if (!isSplit && FILE_FORMATS[format.kind].tags === 'chunks') {
    await stampLoudness(temporaryPath, report.readings);
  }
  const { kind, hasLoudnessTags } = format;
  const { integratedLufs, samplePeakDbfs } = report.readings;
  const isMeasured = integratedLufs !== null && samplePeakDbfs !== null;
  const loudness = hasLoudnessTags && isMeasured ? { integratedLufs, samplePeakDbfs } : null;
  if (isTagged(kind) && !isSplit) {
    await tagFile(temporaryPath, kind, { tags, chapters, cover, loudness }, fileName, signal);
    if (!isEncoded(kind) && (await hashSamples(temporaryPath)) !== audioSha256) {
      throw new AppError('not-as-written', { fileName });
    }
    if (cueSheet && FILE_FORMATS[kind].hasCueSheet) await insertCueSheet(temporaryPath, cueSheet);
    await flush(temporaryPath);
  }
  const labels = channelLabels(report.format, layoutId);
  const paths = isSplit ? splitPaths(temporaryPath, format.channels) : [temporaryPath];
  const files: WrittenFile[] = [];
  for (const [i, path] of paths.entries()) {
    const { size: sizeBytes } = await stat(path);
    const channel = isSplit ? (labels[i] ?? `${i + 1}`) : null;
    files.push({ temporaryPath: path, channel, sizeBytes, sha256: await hashFile(path) });
  }
  for (const path of [besides(temporaryPath).rendered, besides(temporaryPath).chapters])
    await rm(path, { force: true });
  const sizeBytes = files.reduce((sum, file) => sum + file.sizeBytes, 0);
  return {
    files,
    report: {
      ...report,
      sizeBytes,
      sha256: files[0]?.sha256 ?? null,
      // Said by the file, not by whoever ordered it.
      tags: await readFileTags(paths[0] as string, fileName, report.format),
    },
    reduction: rendered.reduction,
    expectedFrames: rendered.frames,
    audioSha256,
  };
}

function channelLabels({ channels, channelMask }: AudioFormat, layoutId: string | null): string[] {
  return channelLayout(channels, channelMask, layoutId ?? undefined).channels.map(({ label }) => label);
}
