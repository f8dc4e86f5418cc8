/** The broadcast extension of a WAV file: EBU Tech 3285, versions 0 to 2, and coding history as EBU R 98 has it. From memory. */
import type { ByteSource } from '../bytes';
import { chunksOf, readChunk, textOf } from '../chunks';
import type { StatedLoudness } from '../metadata';

export interface BroadcastExtension {
  description: string;
  originator: string;
  originatorReference: string;
  /** As written: yyyy-mm-dd and hh:mm:ss, with whatever stands between. */
  originationDate: string;
  originationTime: string;
  /** Frames after midnight. */
  timeReferenceFrames: number;
  version: number;
  /** Version 2 only. */
  loudness: StatedLoudness | null;
  codingHistory: string[];
}

/** Where the fields stand. */
const DESCRIPTION = { at: 0, bytes: 256 };
const ORIGINATOR = { at: 256, bytes: 32 };
const REFERENCE = { at: 288, bytes: 32 };
const DATE = { at: 320, bytes: 10 };
const TIME = { at: 330, bytes: 8 };
const TIME_REFERENCE_AT = 338;
const VERSION_AT = 346;
/** Behind the 64 bytes of the UMID: hundredths of LUFS, LU and dBTP. */
export const LOUDNESS_AT = 412;
const FIXED_BYTES = 602;
/** A loudness that is not stated. */
const UNSTATED = 0x7fff;

/** More history than any file has been through. */
const MOST_BYTES = 1_000_000;

/** The `bext` chunk of a WAV file as it stands there, or undefined where it has none. */
export async function readBext(source: ByteSource, isLittleEndian: boolean): Promise<Uint8Array | undefined> {
  for await (const chunk of chunksOf(source, isLittleEndian)) {
    if (chunk.id === 'bext') return readChunk(source, chunk, MOST_BYTES);
  }
  return undefined;
}

/** Undefined where the chunk is too short to be one. */
export function parseBext(body: Uint8Array, isLittleEndian: boolean): BroadcastExtension | undefined {
  if (body.length < FIXED_BYTES) return undefined;
  const view = new DataView(body.buffer, body.byteOffset, body.byteLength);
  const text = ({ at, bytes }: { at: number; bytes: number }) => textOf(body.subarray(at, at + bytes));
  const [low, high] = [
    view.getUint32(TIME_REFERENCE_AT, isLittleEndian),
    view.getUint32(TIME_REFERENCE_AT + 4, isLittleEndian),
  ];
  const version = view.getUint16(VERSION_AT, isLittleEndian);
  return {
    description: text(DESCRIPTION),
    originator: text(ORIGINATOR),
    originatorReference: text(REFERENCE),
    originationDate: text(DATE),
    originationTime: text(TIME),
    timeReferenceFrames: high * 2 ** 32 + low,
    version,
    loudness: version >= 2 ? loudnessOf(view, isLittleEndian) : null,
    codingHistory: textOf(body.subarray(FIXED_BYTES))
      .split(/\r\n|\r|\n/)
      .filter((line) => line.trim() !== ''),
  };
}

function loudnessOf(view: DataView, isLittleEndian: boolean): StatedLoudness | null {
  const [integratedLufs, loudnessRangeLu, truePeakDbtp, maxMomentaryLufs, maxShortTermLufs] = [0, 1, 2, 3, 4].map(
    (i) => {
      const hundredths = view.getInt16(LOUDNESS_AT + 2 * i, isLittleEndian);
      return hundredths === UNSTATED ? null : hundredths / 100;
    },
  ) as [number | null, number | null, number | null, number | null, number | null];
  const stated = { integratedLufs, loudnessRangeLu, truePeakDbtp, maxMomentaryLufs, maxShortTermLufs };
  // Tools that claim version 2 and leave its fields empty are many.
  return Object.values(stated).every((value) => value === null || value === 0) ? null : stated;
}

/** The five fields of a version 2 chunk from LOUDNESS_AT on, in hundredths; what was not measured is left unstated. */
export function loudnessFields(loudness: StatedLoudness): Uint8Array {
  const fields = new DataView(new ArrayBuffer(10));
  const { integratedLufs, loudnessRangeLu, truePeakDbtp, maxMomentaryLufs, maxShortTermLufs } = loudness;
  [integratedLufs, loudnessRangeLu, truePeakDbtp, maxMomentaryLufs, maxShortTermLufs].forEach((level, i) => {
    fields.setInt16(2 * i, level === null ? UNSTATED : Math.round(100 * level), true);
  });
  return new Uint8Array(fields.buffer);
}

/**
 * The body of a `bext` chunk, version 2, with one more line of history: a source's own where it has one, else a new one.
 * A loudness that the source states does not hold any more, and is left out.
 *
 * @param stated what is said in place of the source's own
 */
export function bextWithHistory(
  existing: Uint8Array | undefined,
  line: string,
  stated: { description?: string; timeReferenceFrames?: number | null; writtenAt?: Date | undefined } = {},
): Uint8Array {
  const isUsable = existing !== undefined && existing.length >= FIXED_BYTES;
  const known = isUsable ? parseBext(existing, true)?.codingHistory : undefined;
  const history = new TextEncoder().encode([...(known ?? []), line, ''].join('\r\n'));
  const body = new Uint8Array(FIXED_BYTES + history.length);
  if (isUsable) body.set(existing.subarray(0, FIXED_BYTES));
  else body.set(new TextEncoder().encode('Opsimeter'), ORIGINATOR.at);
  const view = new DataView(body.buffer);
  // Version 0 has nothing where version 1 keeps its UMID, and may hold what nobody cleared.
  if (view.getUint16(VERSION_AT, true) === 0) body.fill(0, VERSION_AT + 2, LOUDNESS_AT);
  view.setUint16(VERSION_AT, 2, true);
  const { description, timeReferenceFrames, writtenAt } = stated;
  // When the recording was made is its own to say; where nobody has said it, this file is what there is.
  if (writtenAt && !/\d/.test(textOf(body.subarray(DATE.at, DATE.at + DATE.bytes)))) {
    const two = (value: number) => String(value).padStart(2, '0');
    const date = `${writtenAt.getFullYear()}-${two(writtenAt.getMonth() + 1)}-${two(writtenAt.getDate())}`;
    const time = [writtenAt.getHours(), writtenAt.getMinutes(), writtenAt.getSeconds()].map(two).join(':');
    body.set(new TextEncoder().encode(date + time), DATE.at);
  }
  if (description) {
    body.fill(0, DESCRIPTION.at, DESCRIPTION.bytes);
    body.set(new TextEncoder().encode(description).subarray(0, DESCRIPTION.bytes), DESCRIPTION.at);
  }
  if (typeof timeReferenceFrames === 'number') {
    view.setUint32(TIME_REFERENCE_AT, timeReferenceFrames % 2 ** 32, true);
    view.setUint32(TIME_REFERENCE_AT + 4, Math.floor(timeReferenceFrames / 2 ** 32), true);
  }
  for (let i = 0; i < 5; i++) view.setInt16(LOUDNESS_AT + 2 * i, UNSTATED, true);
  body.fill(0, LOUDNESS_AT + 10, FIXED_BYTES);
  body.set(history, FIXED_BYTES);
  return body;
}
