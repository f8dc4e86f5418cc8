/** Where the picture of a film can be cut out of it. */
import { AppError } from '@/core/errors/app-error';
import { ask, type Packet, packetsFrom, pictureStream, soundStreams } from './ask-ffmpeg';
import { framesPerSecond } from './film';
import { filmCutMessages as messages } from './messages';

/** A part of a film, by the film's clock. */
export interface FilmCut {
  /** When its first picture begins. */
  startSeconds: number;
  /** When its last picture ends. */
  endSeconds: number;
  /** When the first packet of the picture that is left out is decoded; null where none is, or where the picture is coded anew. */
  endDecodeSeconds: number | null;
  /** How many pictures are coded anew; null where their packets are copied. */
  recodedPictures: number | null;
}

/** A span as it is asked for, by the film's clock. */
export interface WantedSpan {
  startSeconds: number;
  endSeconds: number;
}

/** Read at a time, and at most: key frames are seldom further apart than ten seconds. */
const READ_PACKETS = 600;
const MOST_PACKETS = 60_000;

/**
 * The least part of a film around a span whose packets can be copied: from a key frame on, up to a picture after which none is needed.
 *
 * @throws AppError `film-not-cut` where it has no picture, or its pictures need those before their key frame
 */
export async function cutAtKeyFrames(
  path: string,
  fileName: string,
  { startSeconds, endSeconds }: WantedSpan,
): Promise<FilmCut> {
  const { index, pictureSeconds, toleranceSeconds, lastSeconds } = await pictureIn(path, fileName);
  const found = async <T>(fromSeconds: number, find: (packets: Packet[], isAll: boolean) => T | undefined) => {
    const own = await findAmong(path, fileName, index, fromSeconds, find);
    if (own === undefined) throw new AppError('film-not-cut', { fileName, reason: messages.noKeyFrame });
    return own;
  };
  const firstSeconds = await found(startSeconds, (packets) => {
    const at = packets.findLastIndex(({ isKey, seconds }) => isKey && seconds <= startSeconds + toleranceSeconds);
    const first = packets[at]?.seconds;
    if (first !== undefined && packets.slice(at).some(({ seconds }) => seconds < first - toleranceSeconds)) {
      throw new AppError('film-not-cut', { fileName, reason: messages.openGroups });
    }
    return first;
  });
  // From the key frame that the last picture needs: no picture ahead of it is shown later than that.
  const end = await found(endSeconds - pictureSeconds, (packets, isAll) => {
    let shownSeconds = Number.NEGATIVE_INFINITY;
    for (const { isKey, seconds, decodeSeconds } of packets) {
      // Pictures that come after a key frame and are shown before it (open GOP) need both: the part ends with those that need nothing after it.
      const endsAt = shownSeconds + pictureSeconds;
      if (isKey && endsAt >= endSeconds - toleranceSeconds)
        return { endSeconds: endsAt, endDecodeSeconds: decodeSeconds };
      shownSeconds = Math.max(shownSeconds, seconds);
    }
    return isAll ? { endSeconds: lastSeconds, endDecodeSeconds: null } : undefined;
  });
  return { startSeconds: firstSeconds, ...end, recodedPictures: null };
}

/** Finds something among packets from a time on: more of them are read until it is found, or there are no more. */
async function findAmong<T>(
  path: string,
  fileName: string,
  stream: number,
  fromSeconds: number,
  find: (packets: Packet[], isAll: boolean) => T | undefined,
): Promise<T | undefined> {
  for (let count = READ_PACKETS; count <= MOST_PACKETS; count *= 10) {
    const packets = await packetsFrom(path, fileName, stream, fromSeconds, count);
    const isAll = packets.length < count;
    const found = find(packets, isAll);
    if (found !== undefined || isAll) return found;
  }
  return undefined;
}

/**
 * The pictures of a film that a span touches, to be coded anew.
 *
 * @throws AppError `film-not-cut` where it has no picture
 */
export async function cutAtPictures(
  path: string,
  fileName: string,
  { startSeconds, endSeconds }: WantedSpan,
): Promise<FilmCut> {
  const { beginsSeconds, lastSeconds, pictureSeconds } = await pictureIn(path, fileName);
  const of = Math.round((lastSeconds - beginsSeconds) / pictureSeconds);
  const within = (number: number) => Math.min(of, Math.max(0, number));
  const first = within(Math.floor((startSeconds - beginsSeconds) / pictureSeconds + ROUNDING));
  const end = within(Math.ceil((endSeconds - beginsSeconds) / pictureSeconds - ROUNDING));
  if (end <= first) throw new AppError('film-not-cut', { fileName, reason: messages.noPictureThere });
  return {
    startSeconds: beginsSeconds + first * pictureSeconds,
    endSeconds: beginsSeconds + end * pictureSeconds,
    endDecodeSeconds: null,
    recodedPictures: end - first,
  };
}

/** Of a picture: times that files state are rounded. */
const ROUNDING = 0.05;

/**
 * When a sound track that is copied begins in a part, after its picture: its packets stay whole.
 *
 * @param track counted from 1
 * @returns seconds; null where nothing of it is in the part
 */
export async function soundInCut(
  path: string,
  fileName: string,
  track: number,
  { startSeconds, endSeconds }: Pick<FilmCut, 'startSeconds' | 'endSeconds'>,
): Promise<number | null> {
  const { streams } = await ask(path, fileName);
  const index = streams.indexOf(soundStreams(streams)[track - 1] as (typeof streams)[number]);
  const first = await findAmong(path, fileName, index, startSeconds, (packets) =>
    packets.find(({ seconds }) => seconds >= startSeconds - CLOCK_SECONDS),
  );
  return first && first.seconds < endSeconds ? first.seconds - startSeconds : null;
}

/** Clocks are rounded by no more. */
const CLOCK_SECONDS = 0.001;

async function pictureIn(path: string, fileName: string) {
  const { streams, format } = await ask(path, fileName);
  const picture = pictureStream(streams);
  const perSecond = picture && framesPerSecond(picture);
  if (!picture || !perSecond) throw new AppError('film-not-cut', { fileName, reason: messages.noPicture });
  const beginsSeconds = picture.start_time ?? 0;
  return {
    index: streams.indexOf(picture),
    beginsSeconds,
    lastSeconds: beginsSeconds + (picture.duration ?? format?.duration ?? 0),
    pictureSeconds: 1 / perSecond,
    toleranceSeconds: 0.25 / perSecond,
  };
}
