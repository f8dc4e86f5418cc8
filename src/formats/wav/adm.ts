/** The audio definition model of a WAV or BW64 (ADM, ITU-R BS.2076): its `chna` and `axml` chunks as ITU-R BS.2088 has them. From memory. */
import { AppError } from '@/core/errors/app-error';
import type { AdmFacts } from '../audio-format';
import type { ByteSource } from '../bytes';
import { type Chunk, type ChunkBody, chunksOf, readChunk, textOf } from '../chunks';
import { type AdmDefinition, type ChnaEntry, readAdmDefinition } from './adm-xml';

/** Behind two counts; each entry names a track, and what it belongs to. */
const FIRST_ENTRY_AT = 4;
const ENTRY_BYTES = 40;
/** More than any definition that is exchanged. */
const MOST_BYTES = 256_000_000;
/** So much of the XML is looked through for times. */
const SEARCHED_BYTES = 4_000_000;
const TIMES = /\b(rtime|start)\s*=/;
/** Every type but that of channels for loudspeakers, by its word or by its number. */
const OBJECTS = /\btypeDefinition\s*=\s*["'](?!DirectSpeakers)|\btypeLabel\s*=\s*["'](?!0001)/;

/**
 * Reads the definition of a WAV or BW64; undefined of one that has none.
 *
 * @param fileName what a person calls the file, for errors
 * @throws AppError `adm-damaged`
 */
export async function readAdm(source: ByteSource, fileName: string): Promise<AdmDefinition | undefined> {
  let text: string | null = null;
  let entries: ChnaEntry[] = [];
  for await (const chunk of chunksOf(source, true)) {
    if (chunk.id !== 'chna' && chunk.id !== 'axml') continue;
    const body = await wholeChunk(source, chunk, fileName);
    if (chunk.id === 'chna') entries = chnaEntries(body, true);
    else text = admText(body).text;
  }
  return entries.length > 0 ? readAdmDefinition(text, entries, fileName) : undefined;
}

/** The XML of an `axml` chunk, up to the first zero, and how it becomes bytes again: the same, where nothing of it is changed. */
export function admText(body: Uint8Array): { text: string; bytesOf: (text: string) => Uint8Array } {
  const end = body.indexOf(0);
  const [used, rest] = end < 0 ? [body, body.subarray(body.length)] : [body.subarray(0, end), body.subarray(end)];
  try {
    const text = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true }).decode(used);
    return { text, bytesOf: (changed) => joined(new TextEncoder().encode(changed), rest) };
  } catch {
    // A character for each byte, as they are.
    const text = Array.from(used, (byte) => String.fromCharCode(byte)).join('');
    return {
      text,
      bytesOf: (changed) =>
        joined(
          Uint8Array.from(changed, (c) => c.charCodeAt(0)),
          rest,
        ),
    };
  }
}

function joined(first: Uint8Array, second: Uint8Array): Uint8Array {
  const all = new Uint8Array(first.length + second.length);
  all.set(first);
  all.set(second, first.length);
  return all;
}

/** The lines of a `chna`; those of empty places are left out. */
export function chnaEntries(body: Uint8Array, isLittleEndian: boolean): ChnaEntry[] {
  if (body.length < FIRST_ENTRY_AT) return [];
  const view = new DataView(body.buffer, body.byteOffset, body.byteLength);
  const count = Math.min(view.getUint16(2, isLittleEndian), Math.floor((body.length - FIRST_ENTRY_AT) / ENTRY_BYTES));
  return Array.from({ length: count }, (_, i) => FIRST_ENTRY_AT + i * ENTRY_BYTES)
    .map((at) => ({
      track: view.getUint16(at, isLittleEndian),
      uid: idIn(body, at + 2, 12),
      formatId: idIn(body, at + 14, 14),
      packId: idIn(body, at + 28, 11),
    }))
    .filter(({ track }) => track > 0);
}

function idIn(body: Uint8Array, at: number, bytes: number): string {
  return textOf(body.subarray(at, at + bytes)).toUpperCase();
}

async function wholeChunk(source: ByteSource, chunk: Chunk, fileName: string): Promise<Uint8Array> {
  if ((chunk.bytes ?? 0) <= MOST_BYTES) return readChunk(source, chunk, MOST_BYTES);
  throw new AppError('adm-damaged', { fileName, reason: 'it is larger than any is' });
}

/** Whether a WAV or BW64 has a definition: a `chna` that names tracks. */
export async function admFacts(source: ByteSource): Promise<AdmFacts | undefined> {
  let hasTracks = false;
  let hasTimes = false;
  let hasObjects = false;
  for await (const chunk of chunksOf(source, true)) {
    if (chunk.id === 'chna') hasTracks = (chunk.bytes ?? 0) >= FIRST_ENTRY_AT + ENTRY_BYTES;
    if (chunk.id === 'axml') {
      const text = new TextDecoder('latin1').decode(await readChunk(source, chunk, SEARCHED_BYTES));
      const isSearched = (chunk.bytes ?? 0) <= SEARCHED_BYTES;
      hasTimes = TIMES.test(text) || !isSearched;
      hasObjects = OBJECTS.test(text) || !isSearched;
    }
  }
  return hasTracks ? { hasTimes, hasObjects } : undefined;
}

/**
 * A file's definition, to go on into another whose channels stand in another order.
 *
 * @param from for each channel of the new file, its place in this one
 * @param fileName what a person calls the file, for errors
 * @throws AppError `adm-damaged` where a definition is larger than any is
 */
export async function admChunks(source: ByteSource, from: readonly number[], fileName: string): Promise<ChunkBody[]> {
  const chunks: ChunkBody[] = [];
  for await (const chunk of chunksOf(source, true)) {
    if (chunk.id !== 'chna' && chunk.id !== 'axml') continue;
    const body = await wholeChunk(source, chunk, fileName);
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
