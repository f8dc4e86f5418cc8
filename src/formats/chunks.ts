/** Files made of chunks: four characters, a size, a body, as RIFF and IFF have them. */
import { type ByteSource, fourCharacters, readBytes } from './bytes';

const CHUNK_HEADER_BYTES = 8;
/** More chunks than any tool writes; a file that goes on longer is noise. */
const MOST_CHUNKS = 10_000;
/** A 32-bit size that says "look elsewhere" or "never filled in". */
const SIZE_UNKNOWN = 0xffffffff;
/** Behind the name of the file's kind. */
const FIRST_CHUNK_OFFSET = 12;

/** A chunk's place in its file. Its size is as stated: the file may end before. */
export interface Chunk {
  id: string;
  /** Where its body begins. */
  offset: number;
  /** Of the body, without its header and the byte that makes it even; undefined where nothing usable is stated. */
  bytes: number | undefined;
}

/** A chunk taken out of its file. */
export interface ChunkBody {
  id: string;
  body: Uint8Array;
}

/**
 * Walks a file's chunks in the order they stand in. Unknown ones are passed over, odd ones are padded, sizes that lie
 * are bounded by the file; a 64-bit size of `data` is taken from `ds64`. Behind a chunk of unknown size nothing is found.
 */
export async function* chunksOf(source: ByteSource, isLittleEndian: boolean): AsyncGenerator<Chunk> {
  let largeDataBytes: number | undefined;
  let offset = FIRST_CHUNK_OFFSET;
  for (let chunks = 0; chunks < MOST_CHUNKS && offset + CHUNK_HEADER_BYTES <= source.size; chunks++) {
    const header = await readBytes(source, offset, CHUNK_HEADER_BYTES);
    if (header.byteLength < CHUNK_HEADER_BYTES) return;
    const id = fourCharacters(header, 0);
    const stated = header.getUint32(4, isLittleEndian);
    const bodyOffset = offset + CHUNK_HEADER_BYTES;
    if (id === 'ds64') {
      const body = await readBytes(source, bodyOffset, Math.min(stated, 28));
      if (body.byteLength >= 16) largeDataBytes = Number(body.getBigUint64(8, true));
    }
    const bytes = id === 'data' ? dataBytes(stated, largeDataBytes) : stated;
    yield { id, offset: bodyOffset, bytes };
    if (bytes === undefined) return;
    offset = await nextChunk(source, bodyOffset + bytes, bytes % 2 === 1);
  }
}

/** An interrupted recording leaves its size empty, or full. */
function dataBytes(stated: number, large: number | undefined): number | undefined {
  if (stated === SIZE_UNKNOWN) return large;
  return stated === 0 ? undefined : stated;
}

/**
 * Where the next chunk begins. An odd chunk is followed by a zero byte, but some tools leave it out: where the byte is
 * not zero and reads as the beginning of a chunk's name, it is one.
 */
async function nextChunk(source: ByteSource, endOffset: number, isOdd: boolean): Promise<number> {
  if (!isOdd) return endOffset;
  const following = await readBytes(source, endOffset, 4);
  const isName = following.byteLength === 4 && /^[ -~]{4}$/.test(fourCharacters(following, 0));
  return isName ? endOffset : endOffset + 1;
}

/** A chunk's body as it stands in the file, up to `mostBytes` of it. */
export async function readChunk(source: ByteSource, { offset, bytes }: Chunk, mostBytes: number): Promise<Uint8Array> {
  const view = await readBytes(source, offset, Math.min(bytes ?? 0, mostBytes, Math.max(0, source.size - offset)));
  return new Uint8Array(view.buffer, view.byteOffset, view.byteLength);
}

/** Text in a field of fixed size or at the end of a chunk: up to the first zero, in UTF-8 or, where it isn't, Latin-1. */
export function textOf(bytes: Uint8Array): string {
  const end = bytes.indexOf(0);
  const used = end < 0 ? bytes : bytes.subarray(0, end);
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(used).trim();
  } catch {
    return new TextDecoder('windows-1252').decode(used).trim();
  }
}
