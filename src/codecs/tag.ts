import { readFileSync } from 'node:fs';
import { open } from 'node:fs/promises';
import type * as TagLibrary from 'node-taglib-sharp';
import type { Cover } from '@/core/delivery/cover';
import { r128GainQ8, replayGainDb } from '@/core/delivery/loudness-tags';
import { AppError } from '@/core/errors/app-error';
import { FILE_FORMATS, type FileKind } from '@/core/file-formats/file-formats';
import type { Tags } from '@/core/file-formats/tags';
import { dbToAmplitude } from '@/core/units/decibel';
import { type Chapter, chapterFields } from './chapters';
import { packetsHash } from './hash';

type Library = typeof TagLibrary;
type File = TagLibrary.File;
type Tag = TagLibrary.Tag;

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

/** Kinds that the library writes tags into; those of WAV are ours, and MP2 and AC-3 have no place for any. */
export type TaggedKind = Exclude<FileKind, 'wav' | 'bw64' | 'mp2' | 'ac3'>;

export function isTagged(kind: FileKind): kind is TaggedKind {
  return FILE_FORMATS[kind].tags === 'library';
}

/**
 * Writes tags into a file, in its own way; what is coded stays bit for bit, which is checked. What is empty is left as it is
 * there. Of an AIFF whoever calls compares the samples: it is opened without FFmpeg.
 *
 * @throws AppError `not-as-written` where anything of the sound would have changed
 */
export async function tagFile(
  path: string,
  kind: TaggedKind,
  { tags, chapters, cover, loudness }: FileTags,
  fileName: string,
  signal?: AbortSignal,
): Promise<void> {
  const isCoded = kind !== 'aiff';
  const fields = FILE_FORMATS[kind].chapters === 'comments' ? chapterFields(chapters) : [];
  const isEmpty = !cover && !loudness && fields.length === 0 && Object.values(tags).every((text) => text === '');
  if (isEmpty) return;
  const before = isCoded ? await packetsHash(path, fileName, signal) : null;
  const loaded = await library();
  let file: File | undefined;
  const fill = (tag: Tag) => {
    writeWords(tag, tags);
    if (cover) tag.pictures = [pictureOf(loaded, cover)];
  };
  try {
    if (kind === 'aiff') {
      const tag = loaded.Id3v2Tag.fromEmpty();
      fill(tag);
      if (loudness) writeReplayGain(tag, loudness);
      await appendId3(path, tag.render().toByteArray());
      return;
    }
    // A temporary name does not say what kind it is.
    file = loaded.File.createFromPath(path, `taglib/${FILE_FORMATS[kind].extensions[0]}`);
    fill(file.tag);
    if (loudness) writeLoudness(loaded, file, kind, loudness);
    for (const [name, value] of fields) xiphOf(loaded, file).setFieldAsStrings(name, value);
    file.save();
  } catch (error) {
    throw new AppError('encode-failed', { fileName, reason: 'its tags could not be written' }, { cause: error });
  } finally {
    file?.dispose();
  }
  const after = isCoded ? await packetsHash(path, fileName, signal) : null;
  if (after !== before) throw new AppError('not-as-written', { fileName });
}

/**
 * Puts an ID3 chunk behind all others of an AIFF. The library's own reader of AIFF takes no AIFF-C, and does not count the byte
 * that makes an odd chunk even.
 */
async function appendId3(path: string, tag: Uint8Array): Promise<void> {
  const file = await open(path, 'r+');
  try {
    const { size } = await file.stat();
    const padded = tag.length + (tag.length % 2);
    const chunk = Buffer.alloc(8 + padded);
    chunk.write('ID3 ', 'latin1');
    chunk.writeUInt32BE(tag.length, 4);
    chunk.set(tag, 8);
    await file.write(chunk, 0, chunk.length, size);
    const stated = Buffer.alloc(4);
    stated.writeUInt32BE(Math.min(0xffffffff, size + chunk.length - 8));
    await file.write(stated, 0, 4, 4);
    await file.sync();
  } finally {
    await file.close();
  }
}

/** What an ID3 tag says, under the names that people know. Nothing of a damaged one. */
export async function readId3(bytes: Uint8Array): Promise<[string, string][]> {
  const { Id3v2Tag, ByteVector } = await library();
  try {
    const tag = Id3v2Tag.fromData(ByteVector.fromByteArray(bytes));
    const { title, performers, album, track, trackCount, year, genres, comment, isrc } = tag;
    return [
      ['Title', title],
      ['Artist', performers.join(', ')],
      ['Album', album],
      ['Track', track ? `${track}${trackCount ? `/${trackCount}` : ''}` : ''],
      ['Date', year ? `${year}` : ''],
      ['Genre', genres.join(';')],
      ['Comment', comment],
      ['ISRC', isrc],
    ].flatMap(([name, value]) => (name && value ? [[name, value] as [string, string]] : []));
  } catch {
    return [];
  }
}

function pictureOf({ ByteVector, Picture, PictureType }: Library, { path, mediaType }: NonNullable<FileTags['cover']>) {
  return Picture.fromFullData(ByteVector.fromByteArray(readFileSync(path)), PictureType.FrontCover, mediaType, '');
}

function writeWords(tag: Tag, tags: Tags): void {
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
  kind: TaggedKind,
  { integratedLufs, samplePeakDbfs }: NonNullable<FileTags['loudness']>,
): void {
  if (FILE_FORMATS[kind].loudnessTags === 'r128-gain') {
    xiphOf(loaded, file).setFieldAsStrings('R128_TRACK_GAIN', `${r128GainQ8(integratedLufs)}`);
    return;
  }
  writeReplayGain(file.tag, { integratedLufs, samplePeakDbfs });
}

function writeReplayGain(tag: Tag, { integratedLufs, samplePeakDbfs }: NonNullable<FileTags['loudness']>): void {
  tag.replayGainTrackGain = replayGainDb(integratedLufs);
  tag.replayGainTrackPeak = dbToAmplitude(samplePeakDbfs);
}
