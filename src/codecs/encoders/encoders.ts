import type { FileKind } from '@/core/file-formats/file-formats';
import type { Encoder } from './encoder';
import { flac } from './flac';
import { m4a } from './m4a';
import { mp2 } from './mp2';
import { mp3 } from './mp3';
import { ogg } from './ogg';
import { opus } from './opus';

/** Kinds that are written by an encoder; the others are our own. */
export type EncodedKind = Exclude<FileKind, 'wav' | 'bw64' | 'aiff'>;

export const ENCODERS: Readonly<Record<EncodedKind, Encoder>> = { flac, mp3, m4a, opus, ogg, mp2 };
