/** The cue sheet that a FLAC carries: a block of metadata of its own (RFC 9639, section 8.7). */
import type { Assembly } from '@/core/lineup/assembly';

export interface FlacCueSheet {
  assembly: Assembly;
  /** 13 digits; empty where it has none. */
  catalogNumber: string;
  /** Of each track; empty where it has none. */
  isrcs: readonly string[];
  isCdAudio: boolean;
  /** Ahead of the first track, and not in the file; stated of a CD only. */
  pregapSeconds: number;
}

const CATALOG_BYTES = 128;
const RESERVED_BYTES = 258;
const TRACK_RESERVED_BYTES = 13;
/** Numbers of the track that stands for the end. */
const LEAD_OUT = { cd: 170, other: 255 } as const;

/** The body of a block of metadata: what stands behind its header of four bytes. */
export function cueSheetBlock({ assembly, catalogNumber, isrcs, isCdAudio, pregapSeconds }: FlacCueSheet): Uint8Array {
  const { tracks, frames, sampleRateHz } = assembly;
  const parts: Uint8Array[] = [
    characters(catalogNumber, CATALOG_BYTES),
    uint64(isCdAudio ? Math.round(pregapSeconds * sampleRateHz) : 0),
    Uint8Array.of(isCdAudio ? 0x80 : 0),
    new Uint8Array(RESERVED_BYTES),
    Uint8Array.of(tracks.length + 1),
  ];
  tracks.forEach(({ markFrame, pauseFrame }, i) => {
    const offset = pauseFrame ?? markFrame;
    const indexes =
      pauseFrame === null
        ? [[1, markFrame]]
        : [
            [0, pauseFrame],
            [1, markFrame],
          ];
    parts.push(trackHeader(offset, i + 1, isrcs[i] ?? '', indexes.length));
    for (const [number, frame] of indexes as [number, number][]) {
      parts.push(uint64(frame - offset), Uint8Array.of(number, 0, 0, 0));
    }
  });
  parts.push(trackHeader(frames, isCdAudio ? LEAD_OUT.cd : LEAD_OUT.other, '', 0));
  return Uint8Array.from(parts.flatMap((part) => [...part]));
}

/** Audio, without pre-emphasis: the flags are 0. */
function trackHeader(offset: number, number: number, isrc: string, indexes: number): Uint8Array {
  return Uint8Array.from([
    ...uint64(offset),
    number,
    ...characters(isrc, 12),
    0,
    ...new Uint8Array(TRACK_RESERVED_BYTES),
    indexes,
  ]);
}

function characters(text: string, bytes: number): Uint8Array {
  const padded = new Uint8Array(bytes);
  padded.set(new TextEncoder().encode(text).subarray(0, bytes));
  return padded;
}

function uint64(value: number): Uint8Array {
  const bytes = new Uint8Array(8);
  new DataView(bytes.buffer).setBigUint64(0, BigInt(value));
  return bytes;
}
