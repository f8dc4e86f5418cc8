import { readFileSync } from 'node:fs';
import type * as TagLibrary from 'node-taglib-sharp';
import type { Cover } from '@/core/delivery/cover';
import { KIND_FACTS } from '@/core/delivery/file-kinds';
import { r128GainQ8, replayGainDb } from '@/core/delivery/loudness-tags';
import type { Tags } from '@/core/delivery/tags';
import { AppError } from '@/core/errors/app-error';
import { dbToAmplitude } from '@/core/units/decibel';
import { type Chapter, chapterFields, hasOwnChapters } from './chapters';
import type { EncodedKind } from './encode';
import { packetsHash } from './hash';

type Library = typeof TagLibrary;
type File = TagLibrary.File;

let loading: Promise<Library> | undefined;

/** Loaded by the first file that needs it: a command that writes no tags does not wait for it. */
function library(): Promise<Library> {
  loading ??= import('node-taglib-sharp').then((loaded) => {
    // What plays MP3 at all reads 2.3; 2.4 is passed over by some.
    loaded.Id3v2Settings.defaultVersion = 3;
    loaded.Id3v2Settings.forceDefaultVersion = true;
    return loaded;
  });
  return loading;
}

/** What a file is to say of itself. */
export interface FileTags {
  tags: Tags;
  /** For the kinds that have them among their tags. */
  chapters: readonly Chapter[];
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
  { tags, chapters, cover, loudness }: FileTags,
  fileName: string,
  signal?: AbortSignal,
): Promise<void> {
  const fields = hasOwnChapters(kind) ? [] : chapterFields(chapters);
  const isEmpty = !cover && !loudness && fields.length === 0 && Object.values(tags).every((text) => text === '');
  if (isEmpty || !isTaggable(kind)) return;
  const before = await packetsHash(path, fileName, signal);
  const loaded = await library();
  let file: File | undefined;
  try {
    // A temporary name does not say what kind it is.
    file = loaded.File.createFromPath(path, `taglib/${KIND_FACTS[kind].extensions[0]}`);
    writeWords(file, tags);
    if (cover) file.tag.pictures = [pictureOf(loaded, cover)];
    if (loudness) writeLoudness(loaded, file, kind, loudness);
    for (const [name, value] of fields) xiphOf(loaded, file).setFieldAsStrings(name, value);
    file.save();
  } catch (error) {
    throw new AppError('encode-failed', { fileName, reason: 'its tags could not be written' }, { cause: error });
  } finally {
    file?.dispose();
  }
  if ((await packetsHash(path, fileName, signal)) !== before) throw new AppError('not-as-written', { fileName });
}

function pictureOf({ ByteVector, Picture, PictureType }: Library, { path, mediaType }: NonNullable<FileTags['cover']>) {
  return Picture.fromFullData(ByteVector.fromByteArray(readFileSync(path)), PictureType.FrontCover, mediaType, '');
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

function xiphOf({ TagTypes }: Library, file: File): TagLibrary.XiphComment {
  return file.getTag(TagTypes.Xiph, true) as TagLibrary.XiphComment;
}

function writeLoudness(
  loaded: Library,
  file: File,
  kind: EncodedKind,
  { integratedLufs, samplePeakDbfs }: NonNullable<FileTags['loudness']>,
): void {
  if (kind === 'opus') {
    xiphOf(loaded, file).setFieldAsStrings('R128_TRACK_GAIN', `${r128GainQ8(integratedLufs)}`);
    return;
  }
  file.tag.replayGainTrackGain = replayGainDb(integratedLufs);
  file.tag.replayGainTrackPeak = dbToAmplitude(samplePeakDbfs);
}
