import { rm } from 'node:fs/promises';
import { basename } from 'node:path';
import type { StatedStart } from '@/core/delivery/start-time-code';
import { AppError } from '@/core/errors/app-error';
import { NO_TAGS, type Tags } from '@/core/file-formats/tags';
import { type Corrections, type Excess, Limiter } from '@/core/limiter/limiter';
import { channelGroups, layoutGroups } from '@/core/limiter/link';
import {
  type ChannelLayout,
  channelLayout,
  codingMask,
  type WrittenOrder,
  writtenOrder,
} from '@/core/loudness/channel-layout';
import { applyFades } from '@/core/treatment/steps/fade';
import { fadesOf, gainOnly, preparationOf, type Treatment } from '@/core/treatment/treatment';
import { dbToAmplitude } from '@/core/units/decibel';
import { createAiffWriter } from '@/formats/aiff/writer';
import { isWavKind } from '@/formats/audio-format';
import type { ChunkBody } from '@/formats/chunks';
import type { Marker } from '@/formats/metadata';
import { readPcmMetadata } from '@/formats/open-metadata';
import { readPcmHeader } from '@/formats/open-pcm';
import type { WrittenDepth } from '@/formats/pack';
import { type PcmLayout, WRITTEN_BIT_DEPTH } from '@/formats/pcm-writer';
import { admChunks, withIdentifier } from '@/formats/wav/adm';
import { withLoudnessRoom } from '@/formats/wav/adm-loudness';
import { bextWithHistory, readBext } from '@/formats/wav/bext';
import { historyLine } from '@/formats/wav/coding-history';
import { cueChunks } from '@/formats/wav/cues';
import { isrcIdentifier, textChunks } from '@/formats/wav/text-chunks';
import { createWavWriter } from '@/formats/wav/writer';
import { ixmlOf } from '@/formats/wav/xml';
import { createKernelCurveMaker } from '@/kernels/curve-kernel';
import type { RenderReport } from '../protocol';
import { carriedOver } from './carried';
import { CeilingCheck } from './ceiling-check';
import { FileSink, FileSource } from './file-bytes';
import { analyseForLimiter, ensureLimiting, floorFor, LimitingFile } from './limiting-file';
import { preparationLeftovers, resampledPathOf, resampleKept, withPrepared } from './prepare-file';
import type { PreparedFormat, PreparedReader, PreparedSource } from './prepared-reader';
import { ProgressReporter, type RunOptions } from './progress';

/** The depth at which dither is wanted unless it is said otherwise: of 24 bits, what is dropped is fewer than anyone hears. */
const DITHERED_DEPTH = 16;

export interface RenderOptions extends RunOptions {
  treatment: Treatment;
  /** What a person calls the written file. */
  fileName?: string | undefined;
  /** A layout chosen by hand, to be stated in the written file. */
  layoutId?: string | null | undefined;
  /** WAV unless it is stated. */
  container?: 'WAV' | 'BW64' | 'AIFF' | undefined;
  /** 24 unless it is stated; 32 is float. */
  bitDepth?: WrittenDepth | undefined;
  /** It is read by a coder, which knows fewer masks than files may state. */
  isForCoder?: boolean | undefined;
  /** When it is written, for a recording that states no date of its own. */
  writtenAtMs?: number | undefined;
  /** The source's audio definition is left out. */
  withoutAdm?: boolean | undefined;
  /**
   * Its channels are tracks of an audio definition, and no loudspeakers: they stay in their order, are turned down as one, and the definition gets
   * room for what is measured.
   */
  isTracks?: boolean | undefined;
  /** Dither falls silent in digital silence, unless it is said not to. */
  isDitherSilenced?: boolean | undefined;
  /** What the file is to say of itself. */
  tags?: Tags | undefined;
  /** Marks that a person has set, in frames of the source, beside those that the source carries. */
  markers?: readonly Marker[] | undefined;
  /** When the source begins, in place of what it says of that. */
  start?: StatedStart | undefined;
  /** The steps before the gain have been gone through already. */
  isPrepared?: boolean | undefined;
  /** The file whose history the written one goes on with; else it is the one that is read. */
  historyPath?: string | undefined;
  /** Where what a limiter needs to know of this source is kept, for the same linking: looked for there, and put there. */
  limitingPath?: string | undefined;
  /** The gain reduction curve of another programme is followed, as it became by these: its peaks are those at `limitingPath`. */
  followed?: Corrections | undefined;
}

/**
 * Writes a source as a WAV or AIFF, through every step of its treatment. It is flushed to disk. `outputPath` must not
 * exist; whatever goes wrong, nothing is left there.
 */
export async function renderFile(path: string, outputPath: string, options: RenderOptions): Promise<RenderReport> {
  const resampledPath = resampledPathOf(outputPath);
  const preparation = preparationOf(options.isPrepared ? gainOnly(0) : options.treatment);
  try {
    const resampled = await resampleKept(path, resampledPath, preparation, { ...options, onProgress: undefined });
    return await renderPrepared(resampled, outputPath, { ...options, historyPath: options.historyPath ?? path });
  } finally {
    await rm(resampledPath, { force: true });
  }
}

const limitingPathOf = (outputPath: string) => `${outputPath}.limiting.part`;

/** What may be left beside `outputPath` where the thread that wrote it was ended. */
export function leftoversOf(outputPath: string): string[] {
  return [outputPath, ...preparationLeftovers(outputPath), limitingPathOf(outputPath)];
}

type LevelOptions = RenderOptions & { historyPath: string };

/** The steps from the gain on: `source` has gone through those before, or does so as it is read. Else as `renderFile`. */
export async function renderPrepared(
  source: PreparedSource,
  outputPath: string,
  options: LevelOptions,
): Promise<RenderReport> {
  const { followed, treatment } = options;
  return withPrepared(source, options, async (reader) => {
    const known = { ...source, facts: reader.facts };
    const limiting = treatment.limit && (await openLimiting(known, outputPath, reader.format, options));
    try {
      const limiter = limiting ? limiterFor(limiting.file, reader.format, treatment, options.isTracks) : null;
      if (followed) limiter?.restore(followed);
      for (;;) {
        reader.seek(0);
        const written = await writeTo(outputPath, reader, { ...options, limiter });
        // What follows another has peaks that this was not made for.
        if (followed || !limiter?.correct(written.excesses)) {
          const { frames } = reader.format;
          const [reduction, corrections] = [limiter?.figures() ?? null, limiter?.corrections() ?? null];
          return { clippedSamples: written.clippedSamples, reduction, corrections, frames };
        }
        await rm(outputPath, { force: true });
      }
    } finally {
      limiting?.file.close();
      if (limiting?.isOwn) await rm(limiting.path, { force: true });
    }
  });
}

async function openLimiting(source: PreparedSource, outputPath: string, format: PreparedFormat, options: LevelOptions) {
  const { treatment, layoutId, limitingPath, followed } = options;
  const { ceilingDbtp, ...linking } = treatment.limit as NonNullable<Treatment['limit']>;
  if (limitingPath) {
    const most = { gainDb: treatment.gainDb, ceilingDbtp };
    if (!followed) await ensureLimiting(source, limitingPath, most, { ...options, linking, onProgress: undefined });
    return { path: limitingPath, file: new LimitingFile(limitingPath), isOwn: false };
  }
  const ownPath = limitingPathOf(outputPath);
  const groups = layoutGroups(layoutOf(format, layoutId), linking);
  const floorDbtp = floorFor(treatment.gainDb, ceilingDbtp);
  await analyseForLimiter(source, ownPath, { ...options, groups, floorDbtp, onProgress: undefined });
  return { path: ownPath, file: new LimitingFile(ownPath), isOwn: true };
}

/** As the file states it, or as it was chosen by hand. */
function layoutOf(format: PreparedFormat, layoutId: string | null | undefined): ChannelLayout {
  return channelLayout(format.channels, format.channelMask, layoutId ?? undefined);
}

function limiterFor(
  file: LimitingFile,
  format: PreparedFormat,
  { gainDb, limit }: Treatment,
  isTracks: boolean | undefined,
): Limiter {
  const { ceilingDbtp, link, lookAheadMs, releaseMs } = limit as NonNullable<Treatment['limit']>;
  const settings = { gainDb, ceilingDbtp, link, lookAheadMs, releaseMs };
  const groups = isTracks ? channelGroups(format.channels, 1) : file.groups;
  return new Limiter(file.peaks(), groups, format.sampleRateHz, settings, createKernelCurveMaker());
}

interface WriteOptions extends RenderOptions {
  limiter: Limiter | null;
  historyPath: string;
}

interface Written {
  clippedSamples: number;
  /** What a limiter has left above its ceiling. */
  excesses: Excess[];
}

async function writeTo(outputPath: string, reader: PreparedReader, options: WriteOptions): Promise<Written> {
  const sink = await FileSink.create(outputPath, options.fileName ?? basename(outputPath));
  try {
    const written = await writeTreated(reader, sink, options);
    await sink.finish();
    return written;
  } catch (error) {
    await sink.abandon();
    await rm(outputPath, { force: true });
    throw error;
  }
}

async function writeTreated(reader: PreparedReader, sink: FileSink, options: WriteOptions): Promise<Written> {
  const { sampleRateHz, channels, frames } = reader.format;
  const { limiter, treatment, bitDepth = WRITTEN_BIT_DEPTH, fileName = '' } = options;
  const dither = treatment.dither ?? (bitDepth === DITHERED_DEPTH ? 'tpdf' : 'none');
  const { isDitherSilenced } = options;
  const layout: PcmLayout = { sampleRateHz, channels, frames, bitDepth, dither, isDitherSilenced };
  const order = options.isTracks ? asTracks(reader.format) : writtenOrder(layoutOf(reader.format, options.layoutId));
  const channelMask = options.isForCoder ? codingMask(order.layout) : order.layout.mask;
  const writer =
    options.container === 'AIFF'
      ? await createAiffWriter(sink, { ...layout, channelMask, tags: options.tags }, fileName)
      : await createWavWriter(sink, {
          ...layout,
          channelMask,
          isBw64: options.container === 'BW64',
          chunks: await chunksFor(reader.format, order.from, options),
        });
  const progress = new ProgressReporter(frames, sampleRateHz, options);
  const check = limiter && !options.followed && new CeilingCheck(limiter, sampleRateHz, channels);
  // A limiter has the gain in its gain reduction; without one it goes into the rounding, so that a sample is rounded once.
  const amplitude = dbToAmplitude((limiter ? 0 : treatment.gainDb) + treatment.outputGainDb);
  const fades = fadesOf(treatment);
  for (let next = await reader.next(); next; next = await reader.next()) {
    const piece = next;
    const startFrame = reader.frame - piece.frames;
    limiter?.apply(piece.channels, piece.frames, startFrame);
    if (check) check.process(piece.channels, piece.frames);
    applyFades(piece.channels, piece.frames, startFrame, frames, fades);
    const ordered = order.from.map((channel) => piece.channels[channel] as Float32Array);
    await writer.write(ordered, piece.frames, amplitude);
    progress.at(reader.frame);
  }
  if (reader.frame !== frames) throw new AppError('source-changed', { fileName: fileName || 'The source' });
  await writer.finish();
  return { clippedSamples: writer.clippedSamples, excesses: check ? check.finish() : [] };
}

/** Channels as they stand, with the mask that their file states. */
function asTracks({ channels, channelMask }: PreparedFormat): WrittenOrder {
  return {
    layout: { ...channelLayout(channels, channelMask), mask: channelMask },
    from: Array.from({ length: channels }, (_, channel) => channel),
  };
}

/**
 * What stands ahead of a written WAV's samples: the source's own broadcast extension where it has one, with this step at its
 * end, what the file says of itself, the source's markers where they are now, and its audio definition.
 */
async function chunksFor(format: PreparedFormat, from: readonly number[], options: WriteOptions): Promise<ChunkBody[]> {
  const { treatment, bitDepth = WRITTEN_BIT_DEPTH, historyPath, tags = NO_TAGS, markers = [] } = options;
  const { gainDb, limit } = treatment;
  const line = historyLine({ ...format, bitDepth, gainDb, ceilingDbtp: limit?.ceilingDbtp ?? null });
  const source = await FileSource.open(historyPath);
  try {
    const header = await readPcmHeader(source, basename(historyPath));
    // RIFX has the other byte order, and nothing that writes it writes these.
    const isReadable = isWavKind(header.format) && header.format.container !== 'RIFX';
    const own = await readPcmMetadata(source, header);
    const rate = options.start?.rate ?? own.timeCode?.rate;
    const said = {
      markers: [...own.markers, ...markers].sort((a, b) => a.frame - b.frame),
      timeReferenceFrames: options.start?.timeReferenceFrames ?? own.timeReferenceFrames,
    };
    const carried = carriedOver(said, treatment, header.format, format.frames);
    const { timeReferenceFrames } = carried;
    const body = bextWithHistory(isReadable ? await readBext(source, true) : undefined, line, {
      description: tags.title,
      timeReferenceFrames,
      writtenAt: options.writtenAtMs === undefined ? undefined : new Date(options.writtenAtMs),
    });
    const isDefined =
      isReadable && !options.isForCoder && !options.withoutAdm && header.format.channels === format.channels;
    const carriedAdm = isDefined ? await admChunks(source, from, basename(historyPath)) : [];
    const adm = options.isTracks ? withRoom(carriedAdm, basename(historyPath)) : carriedAdm;
    // What the time reference is counted in pictures by.
    const counted =
      rate && timeReferenceFrames !== null ? [{ id: 'iXML', body: ixmlOf(rate, timeReferenceFrames) }] : [];
    return [
      { id: 'bext', body },
      ...counted,
      ...withDefinition(textChunks(tags), adm, tags),
      ...cueChunks(carried.markers),
    ];
  } finally {
    await source.close();
  }
}

function withRoom(adm: ChunkBody[], fileName: string): ChunkBody[] {
  return adm.map(({ id, body }) => ({ id, body: id === 'axml' ? withLoudnessRoom(body, fileName) : body }));
}

/** A definition beside what the file says of itself; an ISRC goes into its XML, since there is one of that. */
function withDefinition(texts: ChunkBody[], adm: ChunkBody[], { isrc }: Tags): ChunkBody[] {
  if (!adm.some(({ id }) => id === 'axml')) return [...texts, ...adm];
  const own = isrc
    ? adm.map(({ id, body }) => ({ id, body: id === 'axml' ? withIdentifier(body, isrcIdentifier(isrc)) : body }))
    : adm;
  return [...texts.filter(({ id }) => id !== 'axml'), ...own];
}
