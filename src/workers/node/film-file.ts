/** A film with treated sound: written, decoded again, and held against what was put into it. */
import { rm } from 'node:fs/promises';
import { decode } from '@/codecs/decode';
import { type FilmCut, soundInCut } from '@/codecs/film-cut';
import { probe } from '@/codecs/probe';
import {
  checkCopied,
  type PutBackOptions,
  putBack,
  type ReplacedTrack,
  soundTracksOf,
  startsOf,
} from '@/codecs/put-back';
import { probeTracks } from '@/codecs/tracks';
import { AppError } from '@/core/errors/app-error';
import { FILE_FORMATS, fileKindOf } from '@/core/file-formats/file-formats';
import type { FilmFormat } from '@/core/film/film-formats';
import type { AudioFormat } from '@/formats/audio-format';
import { PcmReader } from '@/formats/pcm-reader';
import type { FileReport } from '../protocol';
import { FileSource } from './file-bytes';
import { decodedFormat, peekHeader } from './measure-file';
import { haveSameSamples } from './pcm-file';
import { readStretch } from './pcm-stretch';
import { flush } from './place-file';

/** Sound that goes back into tracks of a film. */
export interface FilmSound {
  /** Counted from 1. Of several, each takes one channel, in this order. */
  tracks: readonly number[];
  /** A file of ours, whose sound is measured already: a WAV where its samples go in as they are. */
  soundPath: string;
  /** What samples are kept as; null where they go in as they are coded. */
  bitDepth: ReplacedTrack['bitDepth'];
  /** Of what its tracks have, how much lies ahead of it, in seconds; 0 unless it is of a part. */
  fromSeconds?: number;
}

/** What was measured of a file, said of the same samples in a film: they are kept in another way, and what the file says of itself is its own. */
export function reportInFilm({ tags: _, ...report }: FileReport, origin: AudioFormat): FileReport {
  return { ...report, format: { ...origin, layout: report.format.layout } };
}

export interface FilmOrder extends PutBackOptions {
  filmPath: string;
  /** What to write under while it is not whole; nothing may stand there. */
  temporaryPath: string;
  format: FilmFormat;
  sounds: readonly FilmSound[];
  /** The part that is written; all of it, unless stated. */
  cut?: FilmCut;
}

export interface WrittenFilm {
  /** Streams whose packets are those of the source. */
  copiedStreams: number;
  /** By how much each sound begins later than it did, by the picture, in seconds. */
  movedSeconds: number[];
}

/** Sound as it was decoded from the film that was written. */
export interface ReadSound {
  sound: FilmSound;
  decodedPath: string;
  origin: AudioFormat;
  /** It is the samples of `soundPath` from the first to the last: what was measured of those holds of these. */
  isAsMeasured: boolean;
  movedSeconds: number;
}

/** How often it is written until its sound begins where it did: not every container says what a coder has put ahead. */
const MOST_WRITES = 3;
/** A clock in milliseconds rounds picture and sound, each by up to half of one; nearer than half of one in all is tried for. */
const ROUNDED_SECONDS = { tried: 0.000_51, most: 0.001_01 };
/** Coders put at most so many frames ahead. */
const MOST_AHEAD_FRAMES = 4096;
/** Long enough to be found once. */
const COMPARED_FRAMES = 2048;

/**
 * Puts sounds back into a film and reads everything again: the packets of all other streams are the source's, every sample is as it was put
 * in, and begins where it did. Else nothing is left at the temporary name.
 *
 * @param read called with each sound as it was decoded from the film, while its samples are there
 * @throws AppError `not-as-written`, `sound-moved`, or as `putBack`
 */
export async function writeFilm(order: FilmOrder, read: (own: ReadSound) => Promise<void>): Promise<WrittenFilm> {
  const { filmPath, temporaryPath, format, sounds, fileName, cut = null } = order;
  const tracks = sounds.flatMap((sound) => sound.tracks);
  const wanted = await Promise.all(
    sounds.map(async ({ tracks: own, fromSeconds = 0 }) => {
      const { soundSeconds, pictureSeconds } = await startsOf(filmPath, fileName, own);
      const atSeconds = soundSeconds + fromSeconds - (cut?.startSeconds ?? 0);
      return { atSeconds, afterPictureSeconds: cut ? atSeconds : atSeconds - pictureSeconds };
    }),
  );
  const atSeconds = wanted.map((own) => own.atSeconds);
  const others = new Map<number, { wantedSeconds: number; bySeconds: number }>();
  for (let number = 1; number <= (await soundTracksOf(filmPath, fileName)); number++) {
    if (tracks.includes(number)) continue;
    const wantedSeconds = cut
      ? await soundInCut(filmPath, fileName, number, cut)
      : afterPicture(await startsOf(filmPath, fileName, [number]));
    if (wantedSeconds !== null) others.set(number, { wantedSeconds, bySeconds: 0 });
  }
  try {
    for (let writes = 1; ; writes++) {
      const delayed = [...others]
        .map(([number, { bySeconds }]) => ({ number, bySeconds }))
        .filter(({ bySeconds }) => bySeconds !== 0);
      const replaced = replacedTracks(sounds, atSeconds);
      const packets = await putBack({ filmPath, format, replaced, delayed, cut }, temporaryPath, order);
      const all: ReadSound[] = [];
      const copied = checkCopied({ filmPath, format, cut }, temporaryPath, tracks, packets, order);
      // It is awaited below, also where it fails first: until then nobody waits for it.
      copied.catch(() => undefined);
      try {
        for (const [i, sound] of sounds.entries()) {
          all.push(await readAgain(order, sound, wanted[i]?.afterPictureSeconds ?? 0, `${temporaryPath}.${i}`));
        }
      } finally {
        // Nothing goes on reading after what has failed.
        await Promise.allSettled([copied]);
      }
      await copied;
      const allowed = allowedSeconds(format, all, writes === MOST_WRITES);
      let mostSeconds = 0;
      for (const [number, other] of others) {
        const movedSeconds = (await otherBegins(temporaryPath, number, cut !== null)) - other.wantedSeconds;
        mostSeconds = Math.max(mostSeconds, Math.abs(movedSeconds));
        if (Math.abs(movedSeconds) >= allowed) other.bySeconds -= movedSeconds;
      }
      for (const [i, { movedSeconds }] of all.entries()) {
        mostSeconds = Math.max(mostSeconds, Math.abs(movedSeconds));
        if (Math.abs(movedSeconds) >= allowed) atSeconds[i] = (atSeconds[i] ?? 0) - movedSeconds;
      }
      if (mostSeconds < allowed) {
        for (const own of all) await read(own);
        await flush(temporaryPath);
        return { copiedStreams: packets.length, movedSeconds: all.map(({ movedSeconds }) => movedSeconds) };
      }
      if (writes === MOST_WRITES) {
        throw new AppError('sound-moved', { fileName, milliseconds: Math.round(1e4 * mostSeconds) / 10 });
      }
      await rm(temporaryPath);
    }
  } catch (error) {
    await rm(temporaryPath, { force: true });
    throw error;
  } finally {
    for (const i of sounds.keys()) {
      for (const path of Object.values(pathsBeside(`${temporaryPath}.${i}`))) await rm(path, { force: true });
    }
  }
}

/** When a track that was copied begins after the picture: by its packets in a part, since not every coder has a frame in the first of them. */
async function otherBegins(path: string, track: number, isPart: boolean): Promise<number> {
  const starts = await startsOf(path, path, [track]);
  if (!isPart) return afterPicture(starts);
  const { pictureSeconds: startSeconds } = starts;
  return (await soundInCut(path, path, track, { startSeconds, endSeconds: Number.POSITIVE_INFINITY })) ?? 0;
}

type Starts = Awaited<ReturnType<typeof startsOf>>;

function afterPicture({ soundSeconds, pictureSeconds }: Starts): number {
  return soundSeconds - pictureSeconds;
}

/** Half a frame, where the clock of the container is fine enough. */
function allowedSeconds({ isInMilliseconds }: FilmFormat, all: readonly ReadSound[], isLast: boolean): number {
  if (isInMilliseconds) return isLast ? ROUNDED_SECONDS.most : ROUNDED_SECONDS.tried;
  return 0.5 / Math.max(...all.map(({ origin }) => origin.sampleRateHz));
}

function pathsBeside(path: string) {
  return { decoded: `${path}.decoded.part`, sound: `${path}.sound.part` };
}

function replacedTracks(sounds: readonly FilmSound[], atSeconds: readonly number[]): ReplacedTrack[] {
  return sounds.flatMap(({ tracks, soundPath, bitDepth }, i) =>
    tracks.map((number, channel) => ({
      number,
      soundPath,
      bitDepth,
      channel: tracks.length > 1 ? channel : null,
      atSeconds: atSeconds[i] ?? 0,
    })),
  );
}

/** Decodes a sound from the film that was written, and finds what was put in there. */
async function readAgain(
  { temporaryPath, fileName, signal }: FilmOrder,
  sound: FilmSound,
  wantedSeconds: number,
  besidePath: string,
): Promise<ReadSound> {
  const { tracks, soundPath, bitDepth } = sound;
  const paths = pathsBeside(besidePath);
  const probed = await probeTracks(temporaryPath, fileName, tracks);
  const decodeErrors = await decode(temporaryPath, probed, paths.decoded, fileName, { signal });
  let ownPath = soundPath;
  if (bitDepth === null) {
    ownPath = paths.sound;
    const own = await probe(soundPath, fileName);
    const kind = fileKindOf(own.format);
    const startFrame = kind === undefined ? 0 : FILE_FORMATS[kind].encoderDelayFrames;
    await decode(soundPath, own, ownPath, fileName, { startFrame, signal });
  }
  const { format: decoded } = await peekHeader(paths.decoded, fileName);
  const startFrame = bitDepth === null ? await aheadOf(ownPath, paths.decoded) : 0;
  if (decodeErrors > 0 || !(await haveSameSamples(paths.decoded, startFrame, ownPath))) {
    throw new AppError('not-as-written', { fileName });
  }
  const isAsMeasured = bitDepth !== null && (await peekHeader(ownPath, fileName)).format.frames === decoded.frames;
  const isSeconds = afterPicture(await startsOf(temporaryPath, fileName, tracks)) + startFrame / decoded.sampleRateHz;
  return {
    sound,
    decodedPath: paths.decoded,
    origin: { ...decodedFormat(probed.format, decoded), decodeErrors },
    isAsMeasured,
    movedSeconds: isSeconds - wantedSeconds,
  };
}

/** How many frames are decoded ahead of those of a sound: coders put some there, and not every container says which they are. */
async function aheadOf(ownPath: string, decodedPath: string): Promise<number> {
  const [own, decoded] = await Promise.all([FileSource.open(ownPath), FileSource.open(decodedPath)]);
  try {
    const reader = await PcmReader.open(own, ownPath);
    const from = await firstSounding(reader);
    const part = await readStretch(reader, from, COMPARED_FRAMES);
    const around = await readStretch(
      await PcmReader.open(decoded, decodedPath),
      from,
      COMPARED_FRAMES + MOST_AHEAD_FRAMES,
    );
    for (let ahead = 0; ahead <= MOST_AHEAD_FRAMES; ahead++) {
      if (part.every((samples, c) => samples.every((sample, i) => sample === around[c]?.[ahead + i]))) return ahead;
    }
    return 0;
  } finally {
    await own.close();
    await decoded.close();
  }
}

/** The first frame that is not digital silence; 0 where all of it is. */
async function firstSounding(reader: PcmReader): Promise<number> {
  reader.seek(0);
  for (let from = 0; ; ) {
    const piece = await reader.next();
    if (!piece) return 0;
    for (let frame = 0; frame < piece.frames; frame++) {
      if (piece.channels.some((samples) => samples[frame] !== 0)) return from + frame;
    }
    from += piece.frames;
  }
}
