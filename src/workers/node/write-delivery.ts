import { constants } from 'node:fs';
import { copyFile, rm, writeFile } from 'node:fs/promises';
import { type Chapter, chaptersOf, ffmetadata, hasOwnChapters } from '@/codecs/chapters';
import { decode } from '@/codecs/decode';
import { type EncodedFormat, encode, encodedDepth } from '@/codecs/encode';
import { samplesHash } from '@/codecs/hash';
import { probe } from '@/codecs/probe';
import { describeFormat } from '@/core/delivery/format';
import { AppError } from '@/core/errors/app-error';
import { FILE_FORMATS, isEncoded, isLossy } from '@/core/file-formats/file-formats';
import type { Treatment } from '@/core/treatment/treatment';
import { readPcmMetadata } from '@/formats/open-metadata';
import { readPcmHeader } from '@/formats/open-pcm';
import type { FileReport, Progress, RenderReport } from '../protocol';
import { areChannelsAlike } from './channels-alike';
import { stateExtent } from './coded-extent';
import type { DeliverOptions, DeliveryOrder, DeliverySteps, KeptFile } from './delivery-order';
import { besides, splitPaths } from './delivery-paths';
import { FileSource } from './file-bytes';
import { decodedFormat, peekHeader } from './measure-file';
import { checkSplit, hashSamples, splitChannels } from './pcm-file';
import { flush } from './place-file';

/** A delivery as it was written once, and what was read back from it. */
export interface WrittenOnce {
  /** Of the places that are marked in it, where its kind has chapters. */
  chapters: Chapter[];
  report: Omit<FileReport, 'sha256'>;
  rendered: Pick<RenderReport, 'frames' | 'reduction'>;
  audioSha256: string;
}

/** What a coder is told. */
type Coding = EncodedFormat & { chaptersPath: string | undefined };

/** A file that is whole by itself. */
const NO_CONTEXT = { aheadFrames: 0, behindFrames: 0 };

/** Parts of a whole pass, where the file is coded and decoded, and where it is not. */
const CODED_SHARES = [0.3, 0.6, 0.75, 1] as const;
const PLAIN_SHARES = [0.6, 0.6, 0.6, 1] as const;

/** Writes a delivery once: rendered, coded where its kind is, read back and measured. */
export async function writeOnce(
  { temporaryPath, fileName, format, kept, context = NO_CONTEXT }: DeliveryOrder,
  treatment: Treatment,
  steps: DeliverySteps,
  { signal, onProgress }: DeliverOptions,
): Promise<WrittenOnce> {
  const { kind, arrangement, isDitherSilenced } = format;
  const { aheadFrames, behindFrames } = context;
  const isCoded = isEncoded(kind);
  const shares = isCoded ? CODED_SHARES : PLAIN_SHARES;
  const during = (stage: number) => (progress: Progress) => {
    const from = stage === 0 ? 0 : (shares[stage - 1] ?? 0);
    const fraction = from + ((shares[stage] ?? 0) - from) * progress.fraction;
    onProgress?.({ ...progress, fraction });
  };
  const { rendered: besidePath, decoded: decodedPath } = besides(temporaryPath);
  const isSplit = arrangement === 'split';
  if (isCoded && kept) {
    await copyFile(kept.path, temporaryPath, constants.COPYFILE_EXCL);
    await flush(temporaryPath);
    const rendered = { frames: kept.frames, reduction: null };
    const read = await decodeAgain(kept.frames, undefined);
    await checkKept(kept, read.audioSha256);
    return { rendered, chapters: [], ...read };
  }
  const renderedPath = isCoded || isSplit ? besidePath : temporaryPath;
  const rendered = await steps.render(
    {
      path: renderedPath,
      container: kind === 'aiff' ? 'AIFF' : kind === 'bw64' && !isSplit ? 'BW64' : 'WAV',
      bitDepth: encodedDepth(format),
      isDitherSilenced,
      isForCoder: isCoded,
      withoutAdm: format.withoutAdm,
    },
    treatment,
    during(0),
  );
  if (rendered.clippedSamples > 0)
    throw new AppError('would-clip', { samplePeakDbfs: 0, file: describeFormat(format) });
  if (!isCoded) {
    if (isSplit) {
      const paths = splitPaths(temporaryPath, format.channels);
      await splitChannels(renderedPath, paths);
      await checkSplit(renderedPath, paths);
    }
    const [report, audioSha256] = await Promise.all([
      steps.measure(renderedPath, null, during(3)),
      hashSamples(renderedPath),
    ]);
    if (kept) await checkKept(kept, audioSha256);
    return { report, rendered, chapters: [], audioSha256 };
  }
  const chapters = await chaptersIn(renderedPath);
  const { chapters: chaptersPath } = besides(temporaryPath);
  const isCarried = chapters.length > 0 && hasOwnChapters(kind);
  if (isCarried) await writeFile(chaptersPath, ffmetadata(chapters, kind));
  const { readings } = FILE_FORMATS[kind].statesDialogueLevel
    ? await steps.measure(renderedPath, null, () => undefined)
    : { readings: null };
  const coding = {
    ...format,
    kind,
    chaptersPath: isCarried ? chaptersPath : undefined,
    integratedLufs: readings?.integratedLufs ?? null,
  };
  const own = { ...rendered, frames: rendered.frames - aheadFrames - behindFrames };
  return { rendered: own, chapters, ...(await (isLossy(kind) ? codeAndDecode : codeLossless)(own, coding)) };

  async function codeAndDecode({ frames }: { frames: number }, coding: Coding) {
    const { kind, chaptersPath } = coding;
    const durationSeconds = frames / format.sampleRateHz;
    const job = { fileName, durationSeconds, chaptersPath, signal, onProgress: timed(durationSeconds, 1) };
    await encode(renderedPath, temporaryPath, coding, job);
    await stateExtent(temporaryPath, kind, { ...context, frames, sampleRateHz: format.sampleRateHz });
    await flush(temporaryPath);
    // An MPEG-4 file of ours states its end to the frame; FFmpeg plays its last packet out.
    return decodeAgain(frames, FILE_FORMATS[kind].playsOutLastPacket ? frames : undefined, renderedPath);
  }

  /**
   * What nothing is lost of is measured while it is coded. That is measured from the written file all the same: only where its
   * samples are decoded to the same hash as those that were measured, is it handed over.
   */
  async function codeLossless({ frames }: { frames: number }, coding: Coding) {
    const durationSeconds = frames / format.sampleRateHz;
    const ending = new AbortController();
    const either = signal ? AbortSignal.any([signal, ending.signal]) : ending.signal;
    const job = { fileName, durationSeconds, signal: either, onProgress: timed(durationSeconds, 1) };
    const encoding = encode(renderedPath, temporaryPath, coding, job);
    const [, measured, audioSha256] = await Promise.all([
      encoding,
      steps.measure(renderedPath, null, () => undefined),
      hashSamples(renderedPath),
    ]).catch(async (error) => {
      // Nothing goes on writing behind what has failed.
      ending.abort();
      await encoding.catch(() => undefined);
      throw error;
    });
    await flush(temporaryPath);
    const { format: samples } = await peekHeader(renderedPath, fileName);
    await rm(renderedPath, { force: true });
    const probed = await probe(temporaryPath, fileName);
    const { sha256, decodeErrors } = await samplesHash(temporaryPath, probed, fileName, signal);
    if (decodeErrors > 0 || sha256 !== audioSha256) throw new AppError('not-as-written', { fileName });
    return { report: { ...measured, format: decodedFormat(probed.format, samples) }, audioSha256 };
  }

  /** @param codedPath the samples that were coded: each channel is to come back as itself */
  async function decodeAgain(frames: number, statedEnd: number | undefined, codedPath?: string) {
    const probed = await probe(temporaryPath, fileName);
    const endFrame = probed.format.frames === statedEnd ? statedEnd : undefined;
    const decodeErrors = await decode(temporaryPath, probed, decodedPath, fileName, {
      endFrame,
      signal,
      onProgress: timed(frames / format.sampleRateHz, 2),
    });
    const { format: decoded } = await peekHeader(decodedPath, fileName);
    const origin = { ...decodedFormat(probed.format, decoded), decodeErrors };
    const report = await steps.measure(decodedPath, origin, during(3));
    const audioSha256 = await hashSamples(decodedPath);
    const isInOrder =
      codedPath === undefined ||
      (await areChannelsAlike(codedPath, decodedPath, {
        aheadFrames,
        delayFrames: FILE_FORMATS[kind].encoderDelayFrames ?? 0,
      }));
    await rm(decodedPath, { force: true });
    if (codedPath) await rm(codedPath, { force: true });
    if (!isInOrder) throw new AppError('channels-moved', { fileName });
    if (decodeErrors > 0 && !kept) throw new AppError('not-as-written', { fileName });
    return { report, audioSha256 };
  }

  async function checkKept({ samplesPath }: KeptFile, audioSha256: string) {
    if (audioSha256 !== (await hashSamples(samplesPath))) throw new AppError('not-as-written', { fileName });
  }

  function timed(durationSeconds: number, stage: number) {
    const startedMs = performance.now();
    return (seconds: number) =>
      during(stage)({
        fraction: Math.min(1, seconds / durationSeconds),
        timesRealTime: seconds / Math.max(1e-3, (performance.now() - startedMs) / 1000),
      });
  }
}

/** Places that are marked in a WAV of ours. */
async function chaptersIn(path: string): Promise<Chapter[]> {
  const source = await FileSource.open(path);
  try {
    const header = await readPcmHeader(source, path);
    const { markers } = await readPcmMetadata(source, header);
    return chaptersOf(markers, header.format);
  } finally {
    await source.close();
  }
}
