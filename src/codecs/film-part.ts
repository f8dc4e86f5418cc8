/** What FFmpeg is told of a part of a film. */
import { pictureFrameRate } from '@/core/units/time-code';
import type { ask, Stream } from './ask-ffmpeg';
import type { Chapter } from './chapters';
import { statedTimeCode } from './film';
import type { FilmCut } from './film-cut';

/** FFmpeg reads a little more than is wanted: where a packet ends up is known once it is read. */
const READ_ON_SECONDS = 2;
/** Of the longest rounding of a time. */
export const SPARE_SECONDS = 0.001;

export function lengthOf({ startSeconds, endSeconds }: FilmCut): number {
  return endSeconds - startSeconds;
}

export function seeked(cut: FilmCut): string[] {
  const from = ['-seek_timestamp', '1', '-ss', cut.startSeconds.toFixed(6)];
  return [...from, '-t', (lengthOf(cut) + READ_ON_SECONDS).toFixed(6)];
}

/** The chapters that are heard in a part. */
export function chaptersIn(marked: Awaited<ReturnType<typeof ask>>['chapters'], cut: FilmCut): Chapter[] {
  return marked.flatMap(({ start_time = 0, end_time = 0, tags }) => {
    const startSeconds = Math.max(0, start_time - cut.startSeconds);
    const endSeconds = Math.min(end_time, cut.endSeconds) - cut.startSeconds;
    return endSeconds - startSeconds > SPARE_SECONDS ? [{ startSeconds, endSeconds, title: tags?.title ?? '' }] : [];
  });
}

/** Leaves those packets of a stream out that are not of the part: by when they are decoded, where that is stated; else by when they begin. */
export function withinCut(
  cut: FilmCut,
  { codec_type }: Pick<Stream, 'codec_type'> = { codec_type: '' },
  out: number,
): string[] {
  const { startSeconds, endSeconds, endDecodeSeconds } = cut;
  const end =
    codec_type === 'video' && endDecodeSeconds !== null
      ? `gte(dts*tb,${endDecodeSeconds - startSeconds - SPARE_SECONDS})`
      : `gte(pts*tb,${endSeconds - startSeconds - SPARE_SECONDS})`;
  return [`-bsf:${out}`, `noise=drop='lt(pts*tb,${-SPARE_SECONDS})+${end}'`];
}

/** Coders whose loss is not seen (common practice, no source). */
export function codedAnew(pictures: number, muxer: string, out: number): string[] {
  const coders: Readonly<Record<string, readonly string[]>> = {
    webm: ['libvpx-vp9', `-crf:${out}`, '18', `-b:${out}`, '0', `-cpu-used:${out}`, '4'],
    mxf: ['mpeg2video', `-qscale:${out}`, '2', `-g:${out}`, '12'],
  };
  // Not -frames: with the picture, FFmpeg would end all other streams.
  return [
    `-filter:${out}`,
    `trim=end_frame=${pictures}`,
    `-c:${out}`,
    ...(coders[muxer] ?? ['libx264', `-crf:${out}`, '16']),
  ];
}

/** The time code that a film states, of the first picture of a part. */
export function statedIn(streams: readonly Stream[], tags: Record<string, string> | undefined, cut: FilmCut | null) {
  const stated = statedTimeCode(streams, tags);
  if (!stated || !cut) return stated?.at;
  const { rate, pictureFrame } = stated.at;
  const later = Math.round((cut.startSeconds - stated.atSeconds) * pictureFrameRate(rate));
  return { rate, pictureFrame: pictureFrame + later };
}

/** What states a time code states this one. */
export function otherLabel(tags: Record<string, string> | undefined, where: string, label: string): string[] {
  const names = Object.keys(tags ?? {}).filter((name) => name.toLowerCase() === 'timecode');
  return names.flatMap((name) => [`-metadata:${where}`, `${name}=${label}`]);
}
