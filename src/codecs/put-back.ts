/** Treated sound goes back into its film: every packet but those of the tracks that are replaced is copied. */
import { rm, writeFile } from 'node:fs/promises';
import { AppError } from '@/core/errors/app-error';
import type { FilmFormat } from '@/core/film/film-formats';
import { formatTimeCode } from '@/core/units/time-code';
import { ask, countPackets, firstFrameSeconds, pictureStream, type Stream, soundStreams } from './ask-ffmpeg';
import { ffmetadata } from './chapters';
import { notWritable } from './encode';
import { INPUT_GUARDS, inputUrl, OWN_WAV_GUARDS, runFfmpeg } from './ffmpeg';
import { statedTimeCode } from './film';
import type { FilmCut } from './film-cut';
import { chaptersIn, codedAnew, lengthOf, otherLabel, SPARE_SECONDS, seeked, statedIn, withinCut } from './film-part';
import { hashesIn, hashOf, keptStreams } from './film-streams';
import { putBackMessages as messages } from './messages';

const LEAST_TIMEOUT_MS = 600_000;
/** A film is copied at least this fast, or it hangs. */
const MOST_TIMES_SLOWER = 10;

/** A sound track of a film, and what replaces it. */
export interface ReplacedTrack {
  /** Counted from 1. */
  number: number;
  /** A file of ours of one sound track. */
  soundPath: string;
  /** The one channel of it that goes into this track, counted from 0; null for all of them. */
  channel: number | null;
  /** What its samples are kept as, where it is PCM; null where it goes in as it is coded. */
  bitDepth: 16 | 24 | 32 | null;
  /** When its first frame is to begin, by the clock of the film; of a cut, after its start. */
  atSeconds: number;
}

export interface PutBackOptions {
  fileName: string;
  durationSeconds: number;
  signal?: AbortSignal | undefined;
  /** Called with the seconds of the film that are done. */
  onProgress?: ((seconds: number) => void) | undefined;
}

/** What a film is written again from. */
export interface NewFilm {
  filmPath: string;
  format: FilmFormat;
  replaced: readonly ReplacedTrack[];
  /** Sound tracks that are copied, counted from 1, and by how much later: FFmpeg loses what some containers state of a coder's delay. */
  delayed: readonly { number: number; bySeconds: number }[];
  /** The part that is written; null for all of it. */
  cut: FilmCut | null;
}

/**
 * Writes a film again with other sound in some of its tracks. Streams keep language, title and disposition, and their order but for
 * covers and time code, which come last; chapters and tags go along. Nothing is flushed.
 *
 * @param outputPath must not exist
 * @returns a hash of the packets of each stream that is copied, as they are in the source
 * @throws AppError `film-not-copied` where its container takes a stream back no more, or `cancelled`, `took-too-long`, `not-writable`
 */
export async function putBack(
  { filmPath, format, replaced, delayed, cut }: NewFilm,
  outputPath: string,
  options: PutBackOptions,
): Promise<string[]> {
  const { muxer } = format;
  const { streams, format: file, chapters: marked } = await ask(filmPath, options.fileName);
  const kept = keptStreams(streams, muxer, replaced, cut);
  const stated = cut && statedIn(streams, file?.tags, cut);
  const timeCode = stated && formatTimeCode(stated.pictureFrame, stated.rate);
  const film = [...(cut ? seeked(cut) : []), ...inputOf(filmPath)];
  // Times stay as they are, unless a part begins anew: FFmpeg would begin each file at 0 by itself.
  const inputs = [...(cut ? [] : ['-copyts']), ...film];
  let nextInput = 1;
  const sounds = new Map<string, number>();
  for (const { soundPath, atSeconds } of replaced) {
    if (sounds.has(soundPath)) continue;
    sounds.set(soundPath, nextInput++);
    inputs.push('-itsoffset', atSeconds.toFixed(9), ...inputOf(soundPath));
  }
  const delays = new Map<number, number>();
  for (const { number, bySeconds } of delayed) {
    delays.set(number, nextInput++);
    inputs.push('-itsoffset', bySeconds.toFixed(9), ...film);
  }
  const whole = cut && kept.some(({ isStill }) => isStill) ? nextInput++ : 0;
  if (whole > 0) inputs.push(...inputOf(filmPath));
  const chaptersPath = `${outputPath}.chapters.part`;
  let chapters = 0;
  if (cut && marked.length > 0) {
    chapters = nextInput++;
    inputs.push('-f', 'ffmetadata', '-i', inputUrl(chaptersPath));
    await writeFile(chaptersPath, ffmetadata(chaptersIn(marked, cut), null));
  }
  const picked = replaced.flatMap(({ soundPath, channel }, i) =>
    channel === null ? [] : [`[${sounds.get(soundPath)}:a]pan=1c|c0=c${channel}[t${i}]`],
  );
  const covers: string[] = [];
  try {
    const written: string[] = [];
    const running = kept.filter(({ isCountedAnew }) => !isCountedAnew);
    for (const [out, { index, track, by, isCover, isStill, isCopied }] of running.entries()) {
      const stream = streams[index];
      if (isCover) {
        const coverPath = `${outputPath}.cover${out}.part`;
        covers.push(coverPath);
        await run(
          [...inputOf(filmPath), '-map', `0:${index}`, '-c', 'copy', '-f', 'data', inputUrl(coverPath)],
          options,
        );
        written.push('-attach', inputUrl(coverPath), ...tagsOf(stream, out));
        continue;
      }
      written.push(`-map_metadata:s:${out}`, `0:s:${index}`, `-disposition:${out}`, dispositionOf(stream));
      if (by) {
        const from = by.channel === null ? `${sounds.get(by.soundPath)}:a` : `[t${replaced.indexOf(by)}]`;
        written.push('-map', from, ...staleTags(stream, out), ...codecOf(by, stream?.codec_name, out));
      } else {
        written.push('-map', `${isStill ? whole : (delays.get(track) ?? 0)}:${index}`);
        if (cut?.recodedPictures && !isCopied) written.push(...codedAnew(cut.recodedPictures, muxer, out));
        else if (cut && !isStill) written.push(...withinCut(cut, stream, out));
      }
      if (timeCode) written.push(...otherLabel(stream?.tags, `s:${out}`, timeCode));
    }
    const printed = await run(
      [
        ...inputs,
        ...(picked.length > 0 ? ['-filter_complex', picked.join(';')] : []),
        ...['-c', 'copy', '-map_metadata:g', '0:g', '-map_chapters', `${chapters}`, ...written],
        ...(timeCode ? otherLabel(file?.tags, 'g', timeCode) : []),
        ...(cut ? ['-t', `${lengthOf(cut) + SPARE_SECONDS}`] : []),
        ...['-strict', 'experimental', ...muxerOptions(muxer, file?.tags), '-f', muxer, '-n', inputUrl(outputPath)],
        ...hashOf(kept, streams, cut, whole),
      ],
      options,
    );
    return hashesIn(printed, kept, options.fileName);
  } finally {
    for (const path of [...covers, chaptersPath]) await rm(path, { force: true });
  }
}

/**
 * Checks that a film that was written has the time code and the packets of its source, or of a part of it, but for its tracks of these
 * numbers.
 *
 * @param packets as `putBack` has returned them
 * @throws AppError `film-not-copied` where they are others, or as `putBack`
 */
export async function checkCopied(
  { filmPath, format: { muxer }, cut }: Pick<NewFilm, 'filmPath' | 'format' | 'cut'>,
  path: string,
  tracks: readonly number[],
  packets: readonly string[],
  options: PutBackOptions,
): Promise<void> {
  const { fileName } = options;
  const source = await ask(filmPath, fileName);
  const { streams, format } = await ask(path, fileName);
  const counted = statedIn(source.streams, source.format?.tags, cut);
  const countedNow = statedTimeCode(streams, format?.tags)?.at;
  if (counted?.rate !== countedNow?.rate || counted?.pictureFrame !== countedNow?.pictureFrame) {
    throw new AppError('film-not-copied', { fileName, reason: messages.otherTimeCode });
  }
  const picture = pictureStream(streams);
  if (cut?.recodedPictures) {
    const coded = picture ? await countPackets(path, fileName, streams.indexOf(picture), timeoutOf(options)) : 0;
    if (coded !== cut.recodedPictures) {
      throw new AppError('film-not-copied', { fileName, reason: messages.otherPictures(coded, cut.recodedPictures) });
    }
  }
  const replaced = tracks.map((number) => ({ number }));
  const kept = keptStreams(streams, muxer, replaced, cut);
  const hashed = hashOf(kept, streams, null, 0);
  const printed = hashed.length === 0 ? '' : await run(['-copyts', ...inputOf(path), ...hashed], options);
  const written = hashesIn(printed, kept, fileName);
  const other = packets.findIndex((hash, i) => hash !== written[i]);
  if (other === -1 && packets.length === written.length) return;
  const { index = 0 } = kept.filter(({ isCopied }) => isCopied)[other] ?? {};
  throw new AppError('film-not-copied', { fileName, reason: messages.otherPackets(streams[index]?.codec_type ?? '') });
}

/**
 * When the sound of some tracks begins, in seconds by the clock of their file: the first frame that is decoded of the earliest of them. And
 * when its picture does; 0 where it has none.
 */
export async function startsOf(
  path: string,
  fileName: string,
  tracks: readonly number[],
): Promise<{ pictureSeconds: number; soundSeconds: number }> {
  const { streams } = await ask(path, fileName);
  let soundSeconds = Number.POSITIVE_INFINITY;
  for (const number of tracks) soundSeconds = Math.min(soundSeconds, await firstFrameSeconds(path, fileName, number));
  return { pictureSeconds: pictureStream(streams)?.start_time ?? 0, soundSeconds };
}

/** How many sound tracks a file has. */
export async function soundTracksOf(path: string, fileName: string): Promise<number> {
  return soundStreams((await ask(path, fileName)).streams).length;
}

async function run(args: readonly string[], options: PutBackOptions): Promise<string> {
  const { fileName, signal, onProgress } = options;
  let printed = '';
  await runFfmpeg('ffmpeg', ['-nostdin', '-v', 'error', '-progress', 'pipe:1', ...args], fileName, {
    signal,
    timeoutMs: timeoutOf(options),
    fail: (name, reason) => notWritable(name, reason) ?? new AppError('film-not-copied', { fileName: name, reason }),
    onOutput: (text) => {
      const micros = /out_time_us=(\d+)/.exec(text)?.[1];
      if (micros) onProgress?.(Number(micros) / 1e6);
      // Of hours of progress nothing is kept; a hash may come in two pieces.
      printed = printed.replace(PROGRESS, '') + text;
    },
  });
  return printed;
}

function timeoutOf({ durationSeconds }: PutBackOptions): number {
  return Math.max(LEAST_TIMEOUT_MS, MOST_TIMES_SLOWER * 1000 * durationSeconds);
}

/** Lines of progress that are whole. */
const PROGRESS = /^[a-z][a-z_0-9]*=.*\n/gm;

function inputOf(path: string): string[] {
  const isWav = path.endsWith('.wav');
  return [...(isWav ? [...OWN_WAV_GUARDS, ...LARGE_PACKETS] : INPUT_GUARDS), '-i', inputUrl(path)];
}

/** FFmpeg takes as long over a packet as over the samples in it; at most 0.3 s of stereo are still little to read ahead. */
const LARGE_PACKETS = ['-max_size', '65536'];

/** Said of the old sound, and not true of the new. */
const STALE = /^(encoder|bps|duration|number_of_|_statistics_|replaygain_|r128_|source_id)/i;

function staleTags(stream: Stream | undefined, out: number): string[] {
  const stale = Object.keys(stream?.tags ?? {}).filter((name) => STALE.test(name));
  return stale.flatMap((name) => [`-metadata:s:${out}`, `${name}=`]);
}

function tagsOf(stream: Stream | undefined, out: number): string[] {
  return Object.entries(stream?.tags ?? {}).flatMap(([name, value]) => [`-metadata:s:${out}`, `${name}=${value}`]);
}

function dispositionOf(stream: Stream | undefined): string {
  const stated = Object.entries(stream?.disposition ?? {}).filter(([, value]) => value === 1);
  return stated.map(([name]) => name).join('+') || '0';
}

/** PCM keeps the order of bytes that its track has; what is in that order already is copied, in half the time. */
function codecOf({ bitDepth, channel }: ReplacedTrack, stated: string | undefined, out: number): string[] {
  const order = stated?.endsWith('be') ? 'be' : 'le';
  if (bitDepth === null || (order === 'le' && channel === null)) return [];
  return [`-c:${out}`, `pcm_${bitDepth === 32 ? 'f' : 's'}${bitDepth}${order}`];
}

/** Not tags, though FFmpeg reads them as such. */
const BRANDS = ['major_brand', 'minor_version', 'compatible_brands'];

function muxerOptions(muxer: string, tags: Record<string, string> | undefined): string[] {
  if (muxer !== 'mov' && muxer !== 'mp4') return [];
  const hasKeys = Object.keys(tags ?? {}).some((name) => name.startsWith('com.'));
  return [
    // The clock of its edit lists, which is milliseconds unless it is told to be finer.
    ...['-movie_timescale', '48000'],
    // Tags under names of their own are left out unless all are written in that way.
    ...(hasKeys ? ['-movflags', '+use_metadata_tags', ...BRANDS.flatMap((name) => ['-metadata', `${name}=`])] : []),
  ];
}
