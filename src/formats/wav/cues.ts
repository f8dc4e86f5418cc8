/** Places in a WAV file: `cue ` with the labels and lengths of `LIST`/adtl, and the loops of `smpl`. RIFF of 1991, from memory. */
import { fourCharacters } from '../bytes';
import { type ChunkBody, textOf } from '../chunks';
import type { Marker } from '../metadata';
import { listBody, zeroEnded } from './text-chunks';

const CUE_BYTES = 24;
const SAMPLER_BYTES = 36;
const LOOP_BYTES = 24;

/** A cue's number → its frame. */
export function parseCues(body: Uint8Array, isLittleEndian: boolean): Map<number, number> {
  const view = viewOf(body);
  const cues = new Map<number, number>();
  if (body.length < 4) return cues;
  const count = Math.min(view.getUint32(0, isLittleEndian), Math.floor((body.length - 4) / CUE_BYTES));
  for (let i = 0; i < count; i++) {
    const at = 4 + i * CUE_BYTES;
    cues.set(view.getUint32(at, isLittleEndian), view.getUint32(at + 20, isLittleEndian));
  }
  return cues;
}

export interface CueText {
  label?: string;
  lengthFrames?: number;
}

/** What the list of associated data says of each cue, by its number. */
export function parseAssociatedData(body: Uint8Array, isLittleEndian: boolean): Map<number, CueText> {
  const view = viewOf(body);
  const texts = new Map<number, CueText>();
  for (const { id, at, bytes } of listed(body, isLittleEndian)) {
    if (bytes < 4) continue;
    const cue = view.getUint32(at, isLittleEndian);
    const text = texts.get(cue) ?? {};
    texts.set(cue, text);
    if (id === 'labl') text.label = textOf(body.subarray(at + 4, at + bytes));
    else if (id === 'note') text.label ??= textOf(body.subarray(at + 4, at + bytes));
    else if (id === 'ltxt' && bytes >= 20) {
      text.lengthFrames = view.getUint32(at + 4, isLittleEndian);
      const words = textOf(body.subarray(at + 20, at + bytes));
      if (words) text.label ??= words;
    }
  }
  return texts;
}

/** The parts of a `LIST` behind the four characters of its kind. */
export function* listed(
  body: Uint8Array,
  isLittleEndian: boolean,
): Generator<{ id: string; at: number; bytes: number }> {
  const view = viewOf(body);
  for (let at = 4; at + 8 <= body.length; ) {
    const stated = view.getUint32(at + 4, isLittleEndian);
    const bytes = Math.min(stated, body.length - at - 8);
    yield { id: fourCharacters(view, at), at: at + 8, bytes };
    at += 8 + stated + (stated % 2);
  }
}

export function parseLoops(body: Uint8Array, isLittleEndian: boolean): Marker[] {
  if (body.length < SAMPLER_BYTES) return [];
  const view = viewOf(body);
  const count = Math.min(view.getUint32(28, isLittleEndian), Math.floor((body.length - SAMPLER_BYTES) / LOOP_BYTES));
  return Array.from({ length: count }, (_, i) => {
    const at = SAMPLER_BYTES + i * LOOP_BYTES;
    const frame = view.getUint32(at + 8, isLittleEndian);
    // The last frame of a loop is within it.
    const lengthFrames = Math.max(0, view.getUint32(at + 12, isLittleEndian) - frame + 1);
    return { frame, lengthFrames, label: `loop ${i + 1}` };
  });
}

/** Markers as chunks: a cue for each, its name, and its length where it has one. */
export function cueChunks(markers: readonly Marker[]): ChunkBody[] {
  if (markers.length === 0) return [];
  const body = new Uint8Array(4 + markers.length * CUE_BYTES);
  const view = viewOf(body);
  view.setUint32(0, markers.length, true);
  const texts = markers.flatMap(({ frame, lengthFrames, label }, i) => {
    const at = 4 + i * CUE_BYTES;
    const cue = i + 1;
    view.setUint32(at, cue, true);
    view.setUint32(at + 4, frame, true);
    body.set(new TextEncoder().encode('data'), at + 8);
    view.setUint32(at + 20, frame, true);
    const named = [...numbered(cue), ...zeroEnded(label)];
    const length = new Uint8Array(20);
    viewOf(length).setUint32(0, cue, true);
    viewOf(length).setUint32(4, lengthFrames, true);
    length.set(new TextEncoder().encode('rgn '), 8);
    const parts: [string, Uint8Array][] = [['labl', Uint8Array.from(named)]];
    return lengthFrames > 0 ? [...parts, ['ltxt', length] as [string, Uint8Array]] : parts;
  });
  return [
    { id: 'cue ', body },
    { id: 'LIST', body: listBody('adtl', texts) },
  ];
}

function numbered(cue: number): Uint8Array {
  const bytes = new Uint8Array(4);
  viewOf(bytes).setUint32(0, cue, true);
  return bytes;
}

function viewOf({ buffer, byteOffset, byteLength }: Uint8Array): DataView {
  return new DataView(buffer, byteOffset, byteLength);
}
