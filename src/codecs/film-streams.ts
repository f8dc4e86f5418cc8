/** The streams that a film is written with again, and a hash of the packets of those that are copied. */
import { AppError } from '@/core/errors/app-error';
import { pictureStream, type Stream } from './ask-ffmpeg';
import type { FilmCut } from './film-cut';
import { withinCut } from './film-part';
import { putBackMessages as messages } from './messages';

/** @param whole which input is the film without a cut */
export function hashOf(
  kept: readonly KeptStream<unknown>[],
  streams: readonly Stream[],
  cut: FilmCut | null,
  whole: number,
): string[] {
  const copied = kept
    .filter(({ isCopied }) => isCopied)
    .flatMap(({ index, isStill }, out) => [
      ...['-map', `${isStill ? whole : 0}:${index}`],
      ...(cut && !isStill ? withinCut(cut, streams[index], out) : []),
    ]);
  return copied.length === 0 ? [] : [...copied, '-c', 'copy', '-f', 'streamhash', '-hash', 'murmur3', 'pipe:1'];
}

/** One for each stream that is copied. */
export function hashesIn(printed: string, kept: readonly KeptStream<unknown>[], fileName: string): string[] {
  const hashes = [...printed.matchAll(/^\d+,\w,murmur3=([0-9a-f]{32})$/gim)].map(([, hash = '']) => hash);
  if (hashes.length === kept.filter(({ isCopied }) => isCopied).length) return hashes;
  throw new AppError('film-not-copied', { fileName, reason: messages.otherPackets('') });
}

export interface KeptStream<T> {
  /** Among all of the file, from 0. */
  index: number;
  /** Among those of sound, from 1; 0 where it is none. */
  track: number;
  by: T | undefined;
  /** Its packets are those of the source. */
  isCopied: boolean;
  /** One picture, of no time. */
  isStill: boolean;
  /** It is attached, and does not run along. */
  isCover: boolean;
  /** A track of time code: it is written from the label that the file states, since a copy would not be counted as it was. */
  isCountedAnew: boolean;
}

/** The streams that a film is written with again, in their order, each with what replaces it, if anything does. */
export function keptStreams<T extends { number: number }>(
  streams: readonly Stream[],
  muxer: string,
  replaced: readonly T[],
  cut: FilmCut | null,
): KeptStream<T>[] {
  let tracks = 0;
  const kept: KeptStream<T>[] = [];
  for (const [index, stream] of streams.entries()) {
    const track = stream.codec_type === 'audio' ? ++tracks : 0;
    const tag = stream.codec_type === 'data' ? stream.codec_tag_string : undefined;
    // What chapters are kept in is written from the chapters.
    if (tag === 'text') continue;
    // Only there is a cover a file of its own.
    const isCover = muxer === 'matroska' && stream.disposition?.attached_pic === 1;
    const by = replaced.find(({ number }) => number === track);
    const isCountedAnew = tag === 'tmcd';
    const isRecoded = cut?.recodedPictures && stream === pictureStream(streams);
    const isCopied = !by && !isRecoded && !(cut && isCountedAnew);
    const isStill = stream.disposition?.attached_pic === 1;
    kept.push({ index, track, by, isCopied, isStill, isCover, isCountedAnew });
  }
  // Covers and time code are written behind all others.
  const place = ({ isCover, isCountedAnew }: KeptStream<T>) => (isCover || isCountedAnew ? 1 : 0);
  return kept.toSorted((a, b) => place(a) - place(b));
}
