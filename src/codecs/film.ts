/** What a file with a picture states of it, and of its time code. */
import { parseTimeCode, type StartTimeCode, timeCodeRateOf } from '@/core/units/time-code';
import type { Picture } from '@/formats/metadata';
import { pictureCodecOf } from './codecs';

/** What FFmpeg tells of a stream, as far as it matters here. */
interface Stream {
  codec_type: string;
  codec_name?: string | undefined;
  start_time?: number | undefined;
  width?: number | undefined;
  height?: number | undefined;
  /** Frames a second, as `30000/1001`. */
  avg_frame_rate?: string | undefined;
  disposition?: { attached_pic?: number | undefined } | undefined;
  tags?: Record<string, string> | undefined;
}

/** The picture of a film; the cover of a record is none. */
export function pictureOf(streams: readonly Stream[]): Picture | null {
  const moving = movingPicture(streams);
  if (!moving?.width || !moving.height) return null;
  return {
    codec: pictureCodecOf(moving.codec_name ?? ''),
    widthPx: moving.width,
    heightPx: moving.height,
    framesPerSecond: framesPerSecond(moving) ?? 0,
  };
}

/**
 * The time code that a file states: in a track of its own (MOV, MP4), with its picture (Matroska), or for the whole (MXF).
 *
 * @returns the time code, and when it begins on the file's own clock; undefined where there is none, or none at a rate that is counted
 */
export function statedTimeCode(
  streams: readonly Stream[],
  fileTags: Record<string, string> | undefined,
): { at: Pick<StartTimeCode, 'rate' | 'pictureFrame'>; atSeconds: number } | undefined {
  const picture = movingPicture(streams);
  const counted = streams.find((stream) => stream.codec_type === 'data' && labelIn(stream.tags) !== undefined);
  const label = labelIn(counted?.tags) ?? labelIn(picture?.tags) ?? labelIn(fileTags);
  const perSecond = framesPerSecond(counted) ?? framesPerSecond(picture);
  if (label === undefined || perSecond === undefined) return undefined;
  const rate = timeCodeRateOf(perSecond, /[;.]/.test(label));
  const pictureFrame = rate && parseTimeCode(label, rate);
  if (rate === undefined || pictureFrame === undefined) return undefined;
  return { at: { rate, pictureFrame }, atSeconds: (counted ?? picture)?.start_time ?? 0 };
}

function movingPicture(streams: readonly Stream[]): Stream | undefined {
  return streams.find(
    ({ codec_type, disposition }) => codec_type === 'video' && (disposition?.attached_pic ?? 0) === 0,
  );
}

function labelIn(tags: Record<string, string> | undefined): string | undefined {
  return Object.entries(tags ?? {}).find(([name]) => name.toLowerCase() === 'timecode')?.[1];
}

/** Pictures a second, on average. */
export function framesPerSecond(stream: Stream | undefined): number | undefined {
  const [numerator, denominator] = (stream?.avg_frame_rate ?? '').split('/').map(Number);
  const perSecond = (numerator ?? 0) / (denominator ?? 0);
  return perSecond > 0 && Number.isFinite(perSecond) ? perSecond : undefined;
}
