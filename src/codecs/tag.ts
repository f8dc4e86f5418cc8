import { readFileSync } from 'node:fs';
import { ByteVector, File, Id3v2Settings, Picture, PictureType, TagTypes, type XiphComment } from 'node-taglib-sharp';
import type { Cover } from '@/core/delivery/cover';
import { KIND_FACTS } from '@/core/delivery/file-kinds';
import { r128GainQ8, replayGainDb } from '@/core/delivery/loudness-tags';
import type { Tags } from '@/core/delivery/tags';
import { AppError } from '@/core/errors/app-error';
import { dbToAmplitude } from '@/core/units/decibel';
import type { EncodedKind } from './encode';
import { inputUrl, runFfmpeg } from './ffmpeg';

// What plays MP3 at all reads 2.3; 2.4 is passed over by some.
Id3v2Settings.defaultVersion = 3;
Id3v2Settings.forceDefaultVersion = true;

/** What a file is to say of itself. */
export interface FileTags {
  tags: Tags;
  /** A picture, and where it lies. */
  cover: { path: string; mediaType: Cover['mediaType'] } | null;
  /** Of what was measured of the file; null for no tags of loudness. */
  loudness: { integratedLufs: number; samplePeakDbfs: number } | null;
}

/** MP2 has no place for tags. */
function isTaggable(kind: EncodedKind): boolean {
  return kind !== 'mp2';
}

/**
 * Writes tags into a coded file, in its own way; what is coded stays bit for bit, which is checked. What is empty is left as it
 * is there.
 *
 * @throws AppError `not-as-written` where anything of the sound would have changed
 */
export async function tagFile(
  path: string,
  kind: EncodedKind,
  { tags, cover, loudness }: FileTags,
  fileName: string,
  signal?: AbortSignal,
): Promise<void> {
  const isEmpty = !cover && !loudness && Object.values(tags).every((text) => text === '');
  if (isEmpty || !isTaggable(kind)) return;
  const before = await packetsHash(path, fileName, signal);
  // A temporary name does not say what kind it is.
  const file = File.createFromPath(path, `taglib/${KIND_FACTS[kind].extensions[0]}`);
  try {
    writeWords(file, tags);
    if (cover) {
      const picture = Picture.fromFullData(
        ByteVector.fromByteArray(readFileSync(cover.path)),
        PictureType.FrontCover,
        cover.mediaType,
        '',
      );
      file.tag.pictures = [picture];
    }
    if (loudness) writeLoudness(file, kind, loudness);
    file.save();
  } catch (error) {
    throw new AppError('encode-failed', { fileName, reason: 'its tags could not be written' }, { cause: error });
  } finally {
    file.dispose();
  }
  if ((await packetsHash(path, fileName, signal)) !== before) throw new AppError('not-as-written', { fileName });
}

function writeWords({ tag }: File, tags: Tags): void {
  const { title, artist, album, track, year, genre, comment, isrc } = tags;
  if (title) tag.title = title;
  if (artist) tag.performers = [artist];
  if (album) tag.album = album;
  if (genre) tag.genres = [genre];
  if (comment) tag.comment = comment;
  if (year) tag.year = Number(year);
  if (track) {
    const [number = 0, count = 0] = track.split('/').map(Number);
    tag.track = number;
    tag.trackCount = count;
  }
  if (isrc) tag.isrc = isrc;
}

function writeLoudness(
  file: File,
  kind: EncodedKind,
  { integratedLufs, samplePeakDbfs }: NonNullable<FileTags['loudness']>,
): void {
  if (kind === 'opus') {
    const xiph = file.getTag(TagTypes.Xiph, true) as XiphComment;
    xiph.setFieldAsStrings('R128_TRACK_GAIN', `${r128GainQ8(integratedLufs)}`);
    return;
  }
  file.tag.replayGainTrackGain = replayGainDb(integratedLufs);
  file.tag.replayGainTrackPeak = dbToAmplitude(samplePeakDbfs);
}

/** SHA-256 of what is coded: of the packets of the first sound track, as they lie there. */
export async function packetsHash(path: string, fileName: string, signal?: AbortSignal): Promise<string> {
  let printed = '';
  await runFfmpeg(
    'ffmpeg',
    [
      ...['-nostdin', '-v', 'error', '-i', inputUrl(path), '-map', '0:a:0', '-c', 'copy'],
      ...['-f', 'hash', '-hash', 'sha256', '-'],
    ],
    fileName,
    {
      signal,
      timeoutMs: 600_000,
      fail: (_, reason) => new AppError('decode-failed', { fileName, reason }),
      onOutput: (text) => {
        printed += text;
      },
    },
  );
  return printed.trim();
}
