import { ac3 } from './ac3';
import { aiff } from './aiff';
import { bw64 } from './bw64';
import { type FileFormat, RATE_MODES, type RateMode, type StatedFormat } from './file-format';
import { flac } from './flac';
import { m4a } from './m4a';
import { mp2 } from './mp2';
import { mp3 } from './mp3';
import { ogg } from './ogg';
import { opus } from './opus';
import { wav } from './wav';

/** The formats that are written, in the order in which they are offered. */
const ALL = { wav, bw64, aiff, flac, mp3, m4a, opus, ogg, mp2, ac3 };
export type FileKind = keyof typeof ALL;

export const FILE_FORMATS: Readonly<Record<FileKind, FileFormat>> = ALL;
export const FILE_KINDS = Object.keys(ALL) as [FileKind, ...FileKind[]];

export { RATE_MODES, type RateMode };

/** Whether a kind is written by an encoder; the others are our own. */
export function isEncoded(kind: FileKind): boolean {
  return FILE_FORMATS[kind].encoder !== null;
}

export function isLossy(kind: FileKind): boolean {
  return FILE_FORMATS[kind].depths.length === 0;
}

/** The kind that a file's name asks for; undefined where it is none that is written. */
export function kindOfName(fileName: string): FileKind | undefined {
  const extension = /\.([^.]+)$/.exec(fileName)?.[1]?.toLowerCase() ?? '';
  return FILE_KINDS.find((kind) => FILE_FORMATS[kind].extensions.includes(extension));
}

/** The kind that a file is, whatever its depth; undefined where it is none that is written, or a track of several. */
export function fileKindOf({ track, ...stated }: StatedFormat & { track: object | null }): FileKind | undefined {
  return track ? undefined : FILE_KINDS.find((kind) => FILE_FORMATS[kind].matches(stated));
}

/**
 * The kind that a file is, if it can be handed over as it is, with other tags: one that is written here, has a place for tags, and is of a
 * depth that is written.
 *
 * @param file as its header states it; of one sound track
 */
export function kindOfFile(
  file: StatedFormat & { track: object | null; bitDepth: number | null; sampleFormat: 'integer' | 'float' },
): FileKind | undefined {
  const kind = fileKindOf(file);
  if (kind === undefined || FILE_FORMATS[kind].tags === null) return undefined;
  if (FILE_FORMATS[kind].chapters !== 'cues') return kind;
  const { bitDepth, sampleFormat } = file;
  return bitDepth === 16 || bitDepth === 24 || (bitDepth === 32 && sampleFormat === 'float') ? kind : undefined;
}
