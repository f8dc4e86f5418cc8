/** The audio definition model of a WAV or BW64 (ADM, ITU-R BS.2076): its `chna` and `axml` chunks as ITU-R BS.2088 has them. From memory. */
import { AppError } from '@/core/errors/app-error';
import type { ByteSource } from '../bytes';
import { type ChunkBody, chunksOf, readChunk } from '../chunks';

/** Behind two counts; each entry names a track, and what it belongs to. */
const FIRST_ENTRY_AT = 4;
const ENTRY_BYTES = 40;
/** More than any definition that is exchanged. */
const MOST_BYTES = 256_000_000;
/** So much of the XML is looked through for times. */
const SEARCHED_BYTES = 4_000_000;
const TIMES = /\b(rtime|start)\s*=/;

/** What a file's header tells of its definition. */
export interface AdmFacts {
  /** It names times within the programme, which hold only while the programme begins where it did. */
  hasTimes: boolean;
}

/** Whether a WAV or BW64 has a definition: a `chna` that names tracks. */
export async function admFacts(source: ByteSource): Promise<AdmFacts | undefined> {
  let hasTracks = false;
  let hasTimes = false;
  for await (const chunk of chunksOf(source, true)) {
    if (chunk.id === 'chna') hasTracks = (chunk.bytes ?? 0) >= FIRST_ENTRY_AT + ENTRY_BYTES;
    if (chunk.id === 'axml') {
      const text = new TextDecoder('latin1').decode(await readChunk(source, chunk, SEARCHED_BYTES));
      hasTimes = TIMES.test(text) || (chunk.bytes ?? 0) > SEARCHED_BYTES;
    }
  }
  return hasTracks ? { hasTimes } : undefined;
}

/**
 * A file's definition, to go on into another whose channels stand in another order.
 *
 * @param from for each channel of the new file, its place in this one
 * @param fileName what a person calls the file, for errors
 * @throws AppError `header-damaged` where a definition is larger than any is
 */
export async function admChunks(source: ByteSource, from: readonly number[], fileName: string): Promise<ChunkBody[]> {
  const chunks: ChunkBody[] = [];
  for await (const chunk of chunksOf(source, true)) {
    if (chunk.id !== 'chna' && chunk.id !== 'axml') continue;
    if ((chunk.bytes ?? 0) > MOST_BYTES) {
      throw new AppError('header-damaged', { fileName, reason: 'its audio definition is larger than any is' });
    }
    const body = await readChunk(source, chunk, MOST_BYTES);
    chunks.push({ id: chunk.id, body: chunk.id === 'chna' ? reordered(body, from) : body });
  }
  return chunks.some(({ id }) => id === 'chna') ? chunks : [];
}

/** A `chna` whose tracks are those of another order; a track of 0 is an empty place. */
function reordered(chna: Uint8Array, from: readonly number[]): Uint8Array {
  const body = chna.slice();
  const view = new DataView(body.buffer);
  for (let at = FIRST_ENTRY_AT; at + ENTRY_BYTES <= body.length; at += ENTRY_BYTES) {
    const place = from.indexOf(view.getUint16(at, true) - 1);
    if (place >= 0) view.setUint16(at, place + 1, true);
  }
  return body;
}

/** The XML of a definition with an ISRC in it as well: there is one `axml` in a file. As it was, where it has no place for that. */
export function withIdentifier(axml: Uint8Array, identifier: string): Uint8Array {
  const text = new TextDecoder().decode(axml);
  const place = /<(?:[\w-]+:)?coreMetadata\b[^>]*[^/]>|<(?:[\w-]+:)?coreMetadata>/.exec(text);
  if (!place) return axml;
  const at = place.index + place[0].length;
  return new TextEncoder().encode(text.slice(0, at) + identifier + text.slice(at));
}
