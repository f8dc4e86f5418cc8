import type { FileKind } from '../file-formats/file-formats';

/** A codec that sound goes into a film with, and the kind of file that is coded with it by itself. */
const FILM_SOUNDS = {
  pcm: { kind: 'wav', name: 'PCM' },
  flac: { kind: 'flac', name: 'FLAC' },
  aac: { kind: 'm4a', name: 'AAC' },
  ac3: { kind: 'ac3', name: 'AC-3' },
  opus: { kind: 'opus', name: 'Opus' },
  vorbis: { kind: 'ogg', name: 'Vorbis' },
} as const satisfies Record<string, { kind: FileKind; name: string }>;
export type FilmCodec = keyof typeof FILM_SOUNDS;
export const FILM_CODECS = Object.keys(FILM_SOUNDS) as FilmCodec[];

/** A container of picture and sound that treated sound is put back into. */
export interface FilmFormat {
  /** As a file of it is called when it is read. */
  container: string;
  extensions: readonly [string, ...string[]];
  mediaType: string;
  /** FFmpeg's name of what writes it. */
  muxer: string;
  /** What sound it takes, of what is written here; the first where it comes with another. */
  codecs: readonly [FilmCodec, ...FilmCodec[]];
  /** Its clock counts milliseconds: where a sound begins is rounded to one. */
  isInMilliseconds: boolean;
}

export const FILM_FORMATS: readonly FilmFormat[] = [
  {
    container: 'QuickTime',
    extensions: ['mov'],
    mediaType: 'video/quicktime',
    muxer: 'mov',
    codecs: ['pcm', 'aac', 'ac3'],
    isInMilliseconds: false,
  },
  {
    container: 'MPEG-4',
    extensions: ['mp4', 'm4v'],
    mediaType: 'video/mp4',
    muxer: 'mp4',
    codecs: ['aac', 'ac3', 'flac', 'opus'],
    isInMilliseconds: false,
  },
  {
    container: 'Matroska',
    extensions: ['mkv'],
    mediaType: 'video/x-matroska',
    muxer: 'matroska',
    codecs: ['flac', 'pcm', 'aac', 'ac3', 'opus', 'vorbis'],
    isInMilliseconds: true,
  },
  {
    container: 'Matroska',
    extensions: ['webm'],
    mediaType: 'video/webm',
    muxer: 'webm',
    codecs: ['opus', 'vorbis'],
    isInMilliseconds: true,
  },
  {
    container: 'MXF',
    extensions: ['mxf'],
    mediaType: 'application/mxf',
    muxer: 'mxf',
    codecs: ['pcm'],
    isInMilliseconds: false,
  },
];

/** The container that a file's name asks for; undefined where it asks for none of these. */
export function filmFormatOfName(fileName: string): FilmFormat | undefined {
  const extension = /\.([^.]+)$/.exec(fileName)?.[1]?.toLowerCase() ?? '';
  return FILM_FORMATS.find(({ extensions }) => extensions.includes(extension));
}

/** The codec that a track goes back with: its own, where that is written and its container takes it. */
export function filmCodecFor({ codecs }: FilmFormat, trackCodec: string): FilmCodec {
  return codecs.find((codec) => FILM_SOUNDS[codec].name === trackCodec) ?? codecs[0];
}

/** The kind of file that a codec is written as by itself. */
export function fileKindOfCodec(codec: FilmCodec): FileKind {
  return FILM_SOUNDS[codec].kind;
}

/** What people call a codec. */
export function filmCodecName(codec: FilmCodec): string {
  return FILM_SOUNDS[codec].name;
}
