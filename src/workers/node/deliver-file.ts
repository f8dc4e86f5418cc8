/** A delivery from treatment to verified file: written, coded, read back, measured, and written again where it misses. */
import { constants } from 'node:fs';
import { copyFile, rm, stat, writeFile } from 'node:fs/promises';
import { type Chapter, chaptersOf, ffmetadata, hasOwnChapters } from '@/codecs/chapters';
import { decode } from '@/codecs/decode';
import { type EncodedFormat, encode, encodedDepth, isEncoded } from '@/codecs/encode';
import { samplesHash } from '@/codecs/hash';
import { probe } from '@/codecs/probe';
import { type FileTags, isTagged, tagFile } from '@/codecs/tag';
import { describeFormat, type ResolvedFormat } from '@/core/delivery/format';
import { AppError } from '@/core/errors/app-error';
import { FILE_FORMATS, isLossy } from '@/core/file-formats/file-formats';
import { NO_TAGS, type Tags } from '@/core/file-formats/tags';
import type { ReductionFigures } from '@/core/limiter/reduction';
import { channelLayout } from '@/core/loudness/channel-layout';
import { specLoudness } from '@/core/spec/requirements/loudness';
import { specPeak } from '@/core/spec/requirements/peak';
import type { Spec } from '@/core/spec/spec';
import type { Landing } from '@/core/treatment/plan-levels';
import { roundGain } from '@/core/treatment/steps/gain';
import { type Limit, USUAL_LIMITER } from '@/core/treatment/steps/limit';
import type { Treatment } from '@/core/treatment/treatment';
import type { Level } from '@/core/units/decibel';
import type { AudioFormat } from '@/formats/audio-format';
import { readPcmMetadata } from '@/formats/open-metadata';
import { readPcmHeader } from '@/formats/open-pcm';
import type { FileReport, Progress, RenderReport } from '../protocol';
import { areChannelsAlike } from './channels-alike';
import { FileSource } from './file-bytes';
import { readFileTags } from './file-metadata';
import { hashFile } from './hash-file';
import { decodedFormat, peekHeader } from './measure-file';
import { stateMp3Length } from './mp3-file';
import { checkSplit, hashSamples, splitChannels, stampLoudness } from './pcm-file';
import { flush } from './place-file';
import { leftoversOf } from './render-file';

/** A loudness this near to its target is on it; coding moves it by some hundredths from one writing to the next. */
export const SOLVED_WITHIN_LU = 0.05;
export const CODED_WITHIN_LU = 0.1;
/** Written once, and at most three times more; five times more where it is coded, since nobody can foretell coded peaks. */
const MOST_PASSES = 4;
const MOST_CODED_PASSES = 6;
/** A limiter that takes no more than this beyond what it may is within that. */
const REDUCTION_WITHIN_DB = 0.005;
/**
 * A decoded peak is brought so far below the ceiling that the next coding of it does not stand above again; where it does all
 * the same, three times as far, up to the most.
 */
const CODING_MARGIN_DB = 0.05;
const MARGIN_GROWTH = 3;
const MOST_MARGIN_DB = 0.45;

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
interface KeptFile {
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
        greatestDb: written.rendered.reduction?.greatestDb ?? 0,
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
interface Try extends Pass, Levels {
  /** What the limiter has taken at most. */
  greatestDb: number;
}

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
  const coding = { ...format, kind, chaptersPath: isCarried ? chaptersPath : undefined };
  return { rendered, chapters, ...(await (isLossy(kind) ? codeAndDecode : codeLossless)(rendered, coding)) };

  async function codeAndDecode(rendered: RenderReport, coding: Coding) {
    const { kind, chaptersPath } = coding;
    const durationSeconds = rendered.frames / format.sampleRateHz;
    const job = { fileName, durationSeconds, chaptersPath, signal, onProgress: timed(durationSeconds, 1) };
    await encode(renderedPath, temporaryPath, coding, job);
    if (kind === 'mp3') await stateMp3Length(temporaryPath, rendered.frames);
    await flush(temporaryPath);
    // An MPEG-4 file of ours states its end to the frame; FFmpeg plays its last packet out.
    return decodeAgain(
      rendered.frames,
      FILE_FORMATS[kind].playsOutLastPacket ? rendered.frames : undefined,
      renderedPath,
    );
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

  /** @param codedPath the samples that were coded: each channel is to come back as itself */
  async function decodeAgain(frames: number, statedEnd: number | undefined, codedPath?: string) {
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
    const isInOrder = codedPath === undefined || (await areChannelsAlike(codedPath, decodedPath));
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

/**
 * What to write next, or undefined where it stands as well as it can. A coder answers a little change with any other peak: the
 * last time that is left is not spent on loudness, and goes back to what was inside before, if anything was.
 */
function nextTry(order: DeliveryOrder, tries: readonly Try[]): Levels | undefined {
  const last = tries.at(-1) as Try;
  const most = isLossy(order.format.kind) ? MOST_CODED_PASSES : MOST_PASSES;
  if (tries.length === most) return undefined;
  const marginDb = Math.min(MOST_MARGIN_DB, CODING_MARGIN_DB * MARGIN_GROWTH ** (tries.length - 1));
  const next = moved(order, last, marginDb);
  if (tries.length < most - 1 || !isLossy(order.format.kind)) return next;
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

/** What a limiter has taken beyond what it may, in dB: its own look at peaks may be a little higher than the meter's. */
function overtakenOf({ landing, greatestDb }: Try): number {
  const beyondDb = greatestDb - (landing?.maxReductionDb ?? Number.POSITIVE_INFINITY);
  return beyondDb > REDUCTION_WITHIN_DB ? beyondDb : 0;
}

const isOver = (order: DeliveryOrder, own: Try) => excessOf(order, own) > 0 || overtakenOf(own) > 0;

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
  const nextLimit = limit && lowerByDb > 0 ? { ...limit, ceilingDbtp: limit.ceilingDbtp - lowerByDb } : limit;
  // Where levels are as somebody set them, the ceiling alone is moved.
  if (!landing) return nextLimit === limit ? undefined : { treatment: { ...treatment, limit: nextLimit }, landing };
  const { luPerDb, mayLimitDb = 0 } = landing;
  if (!limit && lowerByDb > 0 && mayLimitDb > 0) return nowLimited(order, own, landing, lowerByDb);
  const overtakenDb = overtakenOf(own);
  const mostGainDb = overtakenDb > 0 ? gainDb - overtakenDb : landing.mostGainDb;
  // What nobody limits is turned down. A lower ceiling takes loudness with it, which gain gives back; the most that gain may be
  // goes down with the ceiling, so that no more is limited than is allowed.
  const cappedDb = limit
    ? mostGainDb - lowerByDb
    : Math.min(mostGainDb, lowerByDb > 0 ? gainDb - lowerByDb : mostGainDb);
  const lostLu = limit ? lowerByDb * (1 - luPerDb) : 0;
  const neededLu = (Math.abs(leftLu) > within ? leftLu : 0) + lostLu;
  const nextGainDb = roundGain(
    Math.min(lowerByDb > 0 || overtakenDb > 0 || neededLu !== 0 ? cappedDb : gainDb, gainDb + neededLu / luPerDb),
    'down',
  );
  if (nextGainDb === gainDb && nextLimit === limit) return madeUp(order, own, within);
  return {
    treatment: { ...treatment, gainDb: nextGainDb, limit: nextLimit },
    landing: { ...landing, mostGainDb: cappedDb },
  };
}

/** A limiter that is allowed, and was not needed before coding, takes what coding has lifted above the ceiling. */
function nowLimited(order: DeliveryOrder, own: Try, landing: Landing, lowerByDb: number): Levels {
  const { treatment } = own;
  const { gainDb } = treatment;
  const { mostGainDb, luPerDb, mayLimitDb = 0 } = landing;
  // Gain alone would have been stopped where the true peak meets the ceiling: so it stands that far below now.
  const peakDbtp = order.spec.peak.ceiling - (mostGainDb - gainDb);
  const ceilingDbtp = peakDbtp - lowerByDb;
  const mostLimitedDb = gainDb - lowerByDb + mayLimitDb;
  const nextGainDb = roundGain(Math.min(mostLimitedDb, gainDb + Math.max(0, leftOf(order, own))), 'down');
  return {
    treatment: { ...treatment, gainDb: nextGainDb, limit: { ...USUAL_LIMITER, ...order.limiter, ceilingDbtp } },
    landing: { mostGainDb: mostLimitedDb, luPerDb, maxReductionDb: mayLimitDb },
  };
}

/**
 * Some coders turn everything down a little (LAME by 0.26 dB at 192 kbit/s). What that leaves free below the ceiling is given
 * back, to gain and ceiling alike: the limiter takes no more than before.
 */
function madeUp(order: DeliveryOrder, own: Try, withinLu: number): Levels | undefined {
  const { treatment, landing, peak } = own;
  const leftLu = leftOf(order, own);
  if (!landing || !isLossy(order.format.kind) || leftLu <= withinLu || peak === null) return undefined;
  const freeDb = order.spec.peak.ceiling - peak - CODING_MARGIN_DB;
  const { limit } = treatment;
  const raiseDb = roundGain(Math.min(leftLu, freeDb, limit ? -limit.ceilingDbtp : freeDb), 'down');
  if (raiseDb <= 0) return undefined;
  return {
    treatment: {
      ...treatment,
      gainDb: roundGain(treatment.gainDb + raiseDb, 'down'),
      limit: limit && { ...limit, ceilingDbtp: limit.ceilingDbtp + raiseDb },
    },
    landing: { ...landing, mostGainDb: landing.mostGainDb + raiseDb },
  };
}

async function finish(
  { temporaryPath, fileName, format, tags = NO_TAGS, cover = null, layoutId = null }: DeliveryOrder,
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
      ...{ ...report, sizeBytes, sha256: files[0]?.sha256 ?? null },
      // Said by the file, not by whoever ordered it.
      tags: await readFileTags(paths[0] as string, fileName, report.format),
    },
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

function channelLabels({ channels, channelMask }: AudioFormat, layoutId: string | null): string[] {
  return channelLayout(channels, channelMask, layoutId ?? undefined).channels.map(({ label }) => label);
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
