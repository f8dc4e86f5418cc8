/** A delivery from treatment to verified file: written, coded, read back, measured, and written again where it misses. */
import { constants } from 'node:fs';
import { copyFile, rm, stat, writeFile } from 'node:fs/promises';
import { type Chapter, chaptersOf, ffmetadata, hasOwnChapters } from '@/codecs/chapters';
import { decode } from '@/codecs/decode';
import { type EncodedFormat, encode, encodedDepth, isEncoded } from '@/codecs/encode';
import { samplesHash } from '@/codecs/hash';
import { probe } from '@/codecs/probe';
import { type FileTags, tagFile } from '@/codecs/tag';
import { isLossy } from '@/core/delivery/file-kinds';
import type { SettledFormat } from '@/core/delivery/format';
import { NO_TAGS, type Tags } from '@/core/delivery/tags';
import { AppError } from '@/core/errors/app-error';
import type { ReductionFigures } from '@/core/limiter/reduction';
import { channelLayout } from '@/core/loudness/channel-layout';
import type { Spec } from '@/core/spec/spec';
import { specLoudness, specPeak } from '@/core/spec/verdict';
import { roundGain } from '@/core/treatment/gain';
import type { Treatment } from '@/core/treatment/treatment';
import type { Level } from '@/core/units/decibel';
import type { AudioFormat } from '@/formats/audio-format';
import { readPcmMetadata } from '@/formats/open-metadata';
import { readPcmHeader } from '@/formats/open-pcm';
import type { FileReport, Progress, RenderReport } from '../protocol';
import { FileSource } from './file-bytes';
import { hashFile } from './hash-file';
import { decodedFormat, peekHeader } from './measure-file';
import { stateMp3Length } from './mp3-file';
import { checkSplit, hashSamples, splitChannels, stampLoudness } from './pcm-file';
import { flush } from './place-file';
import { leftoversOf } from './render-file';

/** A loudness this near to its target is on it; coding moves it by some hundredths from one writing to the next. */
export const SOLVED_WITHIN_LU = 0.05;
export const CODED_WITHIN_LU = 0.1;
/** Written once, and at most three times more. */
const MOST_PASSES = 4;
/**
 * A decoded peak is brought so far below the ceiling that the next coding of it does not stand above again; where it does all
 * the same, three times as far.
 */
const CODING_MARGIN_DB = 0.05;
const MARGIN_GROWTH = 3;

/** How the gain may still be moved once it is known where a file has landed. */
export interface Landing {
  /** It is never moved beyond. */
  mostGainDb: number;
  /** Loudness that another decibel brings. */
  luPerDb: number;
}

export interface DeliveryOrder {
  /** What to write under while it is not whole; nothing may stand there. */
  temporaryPath: string;
  /** What a person calls the file. */
  fileName: string;
  format: SettledFormat;
  spec: Spec;
  /** What the file is to say of itself. */
  tags?: Tags | undefined;
  /** A picture for the kinds that carry one. */
  cover?: FileTags['cover'] | undefined;
  /** Of a file that is kept as it is: where it lies. One that is coded is not rendered then. */
  kept?: KeptFile | undefined;
  /** Where the gain and the ceiling start from. */
  treatment: Treatment;
  /** Null where the treatment is to be written as it is, wherever it lands. */
  landing: Landing | null;
}

/** A file, and its samples: the same, or what it is decoded to. They may not differ from what is handed over. */
interface KeptFile {
  path: string;
  samplesPath: string;
  frames: number;
}

/** What is done by threads, or by whoever calls. */
export interface DeliverySteps {
  render(
    output: { path: string; container: 'WAV' | 'BW64' | 'AIFF'; bitDepth: 16 | 24 | 32; isDitherSilenced: boolean },
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

/** Where a written file landed, by what its spec measures: loudness in LUFS or dBFS, peak in dBTP or dBFS. */
export interface Pass {
  gainDb: number;
  /** Of the limiter; null where there was none. */
  ceilingDbtp: number | null;
  loudness: Level;
  peak: Level;
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

interface DeliverOptions {
  signal?: AbortSignal | undefined;
  onProgress?: ((progress: Progress) => void) | undefined;
}

/** Everything that may stand beside a delivery's temporary name while it is written. */
export function deliveryLeftovers(temporaryPath: string): string[] {
  const { rendered, decoded, chapters } = besides(temporaryPath);
  return [...leftoversOf(temporaryPath), ...leftoversOf(rendered), decoded, chapters];
}

/**
 * Writes a delivery and measures it from what was written. Where it may be moved and has missed its target, or where coding has
 * lifted its peaks above the ceiling, it is written again. Whatever goes wrong, nothing is left at the temporary names;
 * but for what a thread or process leaves that is ended, see `deliveryLeftovers`.
 *
 * @throws AppError also `would-clip`, where samples would not fit into the file
 */
export async function deliver(
  order: DeliveryOrder,
  steps: DeliverySteps,
  options: DeliverOptions = {},
): Promise<Delivered> {
  const tries: Try[] = [];
  let { treatment, landing } = order;
  try {
    for (;;) {
      const { signal } = options;
      if (signal?.aborted) throw new AppError('cancelled', {});
      const written = await writeOnce(order, treatment, steps, options);
      const { readings } = written.report;
      const last = {
        ...{ treatment, landing },
        gainDb: treatment.gainDb,
        ceilingDbtp: treatment.limit?.ceilingDbtp ?? null,
        loudness: specLoudness(readings, order.spec),
        peak: specPeak(readings, order.spec),
      };
      tries.push(last);
      const next = nextTry(order, tries);
      if (!next) {
        const passes = tries.map(({ gainDb, ceilingDbtp, loudness, peak }) => ({
          gainDb,
          ceilingDbtp,
          loudness,
          peak,
        }));
        return { ...(await finish(order, written, signal)), treatment, passes };
      }
      ({ treatment, landing } = next);
      await removeAll(order.temporaryPath, order.format.channels);
    }
  } catch (error) {
    await removeAll(order.temporaryPath, order.format.channels);
    throw error;
  }
}

/** A pass, and what it was made with. */
interface Try extends Pass, Levels {}

interface Levels {
  treatment: Treatment;
  landing: Landing | null;
}

interface WrittenOnce {
  /** Of the places that are marked in it, where its kind has chapters. */
  chapters: Chapter[];
  report: Omit<FileReport, 'sha256'>;
  rendered: Pick<RenderReport, 'frames' | 'reduction'>;
  audioSha256: string;
}

/** What a coder is told. */
type Coding = EncodedFormat & { chaptersPath: string | undefined };

/** Parts of a whole pass, where the file is coded and decoded, and where it is not. */
const CODED_SHARES = [0.3, 0.6, 0.75, 1] as const;
const PLAIN_SHARES = [0.6, 0.6, 0.6, 1] as const;

async function writeOnce(
  { temporaryPath, fileName, format, kept }: DeliveryOrder,
  treatment: Treatment,
  steps: DeliverySteps,
  { signal, onProgress }: DeliverOptions,
): Promise<WrittenOnce> {
  const { kind, arrangement, isDitherSilenced } = format;
  const isCoded = isEncoded(kind);
  const shares = isCoded ? CODED_SHARES : PLAIN_SHARES;
  const during = (stage: number) => (progress: Progress) => {
    const from = stage === 0 ? 0 : (shares[stage - 1] as number);
    const fraction = from + ((shares[stage] as number) - from) * progress.fraction;
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
    },
    treatment,
    during(0),
  );
  if (rendered.clippedSamples > 0) throw new AppError('would-clip', { samplePeakDbfs: 0 });
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
  const coding = { ...format, kind, chaptersPath: isCarried ? chaptersPath : undefined };
  return { rendered, chapters, ...(await (isLossy(kind) ? codeAndDecode : codeLossless)(rendered, coding)) };

  async function codeAndDecode(rendered: RenderReport, coding: Coding) {
    const { kind, chaptersPath } = coding;
    const durationSeconds = rendered.frames / format.sampleRateHz;
    const job = { fileName, durationSeconds, chaptersPath, signal, onProgress: timed(durationSeconds, 1) };
    await encode(renderedPath, temporaryPath, coding, job);
    if (kind === 'mp3') await stateMp3Length(temporaryPath, rendered.frames);
    await flush(temporaryPath);
    await rm(renderedPath, { force: true });
    // An MPEG-4 file of ours states its end to the frame; FFmpeg plays its last packet out.
    return decodeAgain(rendered.frames, kind === 'm4a' ? rendered.frames : undefined);
  }

  /**
   * What nothing is lost of is measured while it is coded. That is measured from the written file all the same: only where its
   * samples are decoded to the same hash as those that were measured, is it handed over.
   */
  async function codeLossless(rendered: RenderReport, coding: Coding) {
    const durationSeconds = rendered.frames / format.sampleRateHz;
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

  async function decodeAgain(frames: number, statedEnd: number | undefined) {
    const probed = await probe(temporaryPath, fileName);
    const endFrame = probed.format.frames === statedEnd ? statedEnd : undefined;
    const decodeErrors = await decode(temporaryPath, probed, decodedPath, fileName, {
      ...{ endFrame, signal },
      onProgress: timed(frames / format.sampleRateHz, 2),
    });
    const { format: decoded } = await peekHeader(decodedPath, fileName);
    const origin = { ...decodedFormat(probed.format, decoded), decodeErrors };
    const report = await steps.measure(decodedPath, origin, during(3));
    const audioSha256 = await hashSamples(decodedPath);
    await rm(decodedPath, { force: true });
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

/**
 * What to write next, or undefined where it stands as well as it can. A coder answers a little change with any other peak: the
 * last time that is left is not spent on loudness, and goes back to what was inside before, if anything was.
 */
function nextTry(order: DeliveryOrder, tries: readonly Try[]): Levels | undefined {
  const last = tries.at(-1) as Try;
  if (tries.length === MOST_PASSES) return undefined;
  const next = moved(order, last, CODING_MARGIN_DB * MARGIN_GROWTH ** (tries.length - 1));
  if (tries.length < MOST_PASSES - 1 || !isLossy(order.format.kind)) return next;
  if (!isOver(order, last)) return undefined;
  const [best] = tries
    .filter((own) => !isOver(order, own))
    .sort((a, b) => Math.abs(leftOf(order, a)) - Math.abs(leftOf(order, b)));
  return best ?? next;
}

/** What coding has lifted above the ceiling, in dB. */
function excessOf({ format, spec }: DeliveryOrder, { peak }: Pass): number {
  return isLossy(format.kind) && peak !== null ? Math.max(0, peak - spec.peak.ceiling) : 0;
}

const isOver = (order: DeliveryOrder, pass: Pass) => excessOf(order, pass) > 0;

/** Left to the target, in LU, where the levels may be moved towards it. */
function leftOf({ spec }: DeliveryOrder, { loudness, landing }: Try): number {
  return landing && spec.loudness && loudness !== null ? spec.loudness.target - loudness : 0;
}

function moved(order: DeliveryOrder, own: Try, marginDb: number): Levels | undefined {
  const { treatment, landing } = own;
  const { limit, gainDb } = treatment;
  const within = isLossy(order.format.kind) ? CODED_WITHIN_LU : SOLVED_WITHIN_LU;
  const leftLu = leftOf(order, own);
  const excessDb = excessOf(order, own);
  const lowerByDb = excessDb > 0 ? excessDb + marginDb : 0;
  if (!landing && !limit) return undefined;
  const { mostGainDb, luPerDb } = landing ?? { mostGainDb: gainDb, luPerDb: 1 };
  // What nobody limits is turned down. A lower ceiling takes loudness with it, which gain gives back.
  const cappedDb = limit || lowerByDb === 0 ? mostGainDb : Math.min(mostGainDb, gainDb - lowerByDb);
  const lostLu = limit && landing ? lowerByDb * (1 - luPerDb) : 0;
  const neededLu = (Math.abs(leftLu) > within ? leftLu : 0) + lostLu;
  const nextGainDb = roundGain(
    Math.min(lowerByDb > 0 || neededLu !== 0 ? cappedDb : gainDb, gainDb + neededLu / luPerDb),
    'down',
  );
  const nextLimit = limit && lowerByDb > 0 ? { ...limit, ceilingDbtp: limit.ceilingDbtp - lowerByDb } : limit;
  if (nextGainDb === gainDb && nextLimit === limit) return undefined;
  return {
    treatment: { ...treatment, gainDb: nextGainDb, limit: nextLimit },
    landing: landing && { ...landing, mostGainDb: limit ? mostGainDb : cappedDb },
  };
}

async function finish(
  { temporaryPath, fileName, format, tags = NO_TAGS, cover = null }: DeliveryOrder,
  { report, rendered, chapters, audioSha256 }: WrittenOnce,
  signal: AbortSignal | undefined,
): Promise<Omit<Delivered, 'treatment' | 'passes'>> {
  const isSplit = format.arrangement === 'split';
  if (!isSplit && (format.kind === 'wav' || format.kind === 'bw64')) {
    await stampLoudness(temporaryPath, report.readings);
  }
  const { kind, hasLoudnessTags } = format;
  const { integratedLufs, samplePeakDbfs } = report.readings;
  const isMeasured = integratedLufs !== null && samplePeakDbfs !== null;
  const loudness = hasLoudnessTags && isMeasured ? { integratedLufs, samplePeakDbfs } : null;
  if (isEncoded(kind)) {
    await tagFile(temporaryPath, kind, { tags, chapters, cover, loudness }, fileName, signal);
    await flush(temporaryPath);
  }
  const labels = channelLabels(report.format);
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
    report: { ...report, sizeBytes, sha256: files[0]?.sha256 ?? null },
    reduction: rendered.reduction,
    expectedFrames: rendered.frames,
    audioSha256,
  };
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

function channelLabels({ channels, channelMask }: AudioFormat): string[] {
  return channelLayout(channels, channelMask).channels.map(({ label }) => label);
}

function besides(temporaryPath: string) {
  return {
    rendered: `${temporaryPath}.rendered.part`,
    decoded: `${temporaryPath}.decoded.part`,
    chapters: `${temporaryPath}.chapters.part`,
  };
}

function splitPaths(temporaryPath: string, channels: number): string[] {
  return Array.from({ length: channels }, (_, channel) => `${temporaryPath}.${channel + 1}.part`);
}

async function removeAll(temporaryPath: string, channels: number): Promise<void> {
  for (const path of [...deliveryLeftovers(temporaryPath), ...splitPaths(temporaryPath, channels)]) {
    await rm(path, { force: true });
  }
}
