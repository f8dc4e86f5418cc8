/**
 * Named numeric arrays and a small description in one piece of bytes: how series and waveforms are kept on disk and
 * sent to a page. Layout, little-endian: uint32 length of the JSON head, the head, zero padding to 8, then each array
 * at a multiple of 8. Any part of any array can be read or written by itself.
 */
const TYPES = { f32: Float32Array, f64: Float64Array, i16: Int16Array, u16: Uint16Array } as const;
type TypeName = keyof typeof TYPES;

export type BundledArray = Float32Array | Float64Array | Int16Array | Uint16Array;

export interface ArrayBundle<Meta> {
  meta: Meta;
  arrays: Record<string, BundledArray>;
}

interface ArrayPlan {
  name: string;
  type: TypeName;
  length: number;
}

/** Where everything of a bundle lies. */
export interface BundlePlan<Meta> {
  meta: Meta;
  /** The bytes ahead of the first array. */
  head: Uint8Array;
  arrays: Readonly<Record<string, ArrayPlan & { offset: number }>>;
  bytes: number;
}

export function planBundle<Meta>(meta: Meta, arrays: readonly ArrayPlan[]): BundlePlan<Meta> {
  const text = new TextEncoder().encode(JSON.stringify({ meta, arrays }));
  const head = new Uint8Array(aligned(4 + text.length));
  new DataView(head.buffer).setUint32(0, text.length, true);
  head.set(text, 4);
  return { meta, head, ...placeArrays(arrays, head.length) };
}

/** Bytes of the head that the first four bytes of a bundle announce. */
export function headBytes(firstBytes: Uint8Array): number {
  const length = new DataView(firstBytes.buffer, firstBytes.byteOffset).getUint32(0, true);
  return aligned(4 + length);
}

/** @param head the bytes ahead of the first array */
export function readPlan<Meta>(head: Uint8Array): BundlePlan<Meta> {
  const length = new DataView(head.buffer, head.byteOffset).getUint32(0, true);
  const { meta, arrays } = JSON.parse(new TextDecoder().decode(head.subarray(4, 4 + length))) as {
    meta: Meta;
    arrays: ArrayPlan[];
  };
  return { meta, head, ...placeArrays(arrays, head.length) };
}

export function encodeArrays<Meta>({ meta, arrays }: ArrayBundle<Meta>): Uint8Array {
  const plan = planBundle(
    meta,
    Object.entries(arrays).map(([name, array]) => ({ name, type: typeOf(array), length: array.length })),
  );
  const bytes = new Uint8Array(plan.bytes);
  bytes.set(plan.head);
  for (const [name, array] of Object.entries(arrays)) {
    const { offset } = plan.arrays[name] as { offset: number };
    bytes.set(new Uint8Array(array.buffer, array.byteOffset, array.byteLength), offset);
  }
  return bytes;
}

/** The arrays are views of the buffer, not copies. */
export function decodeArrays<Meta>(buffer: ArrayBuffer): ArrayBundle<Meta> {
  const plan = readPlan<Meta>(new Uint8Array(buffer, 0, headBytes(new Uint8Array(buffer, 0, 4))));
  const arrays = Object.values(plan.arrays).map(
    ({ name, type, offset, length }) => [name, new TYPES[type](buffer, offset, length)] as const,
  );
  return { meta: plan.meta, arrays: Object.fromEntries(arrays) };
}

/** A new array of a planned type. */
export function newArray(type: TypeName, length: number): BundledArray {
  return new TYPES[type](length);
}

function placeArrays(arrays: readonly ArrayPlan[], start: number) {
  const placed: Record<string, ArrayPlan & { offset: number }> = {};
  let offset = start;
  for (const plan of arrays) {
    placed[plan.name] = { ...plan, offset };
    offset += aligned(plan.length * TYPES[plan.type].BYTES_PER_ELEMENT);
  }
  return { arrays: placed, bytes: offset };
}

function typeOf(array: BundledArray): TypeName {
  if (array instanceof Float64Array) return 'f64';
  if (array instanceof Float32Array) return 'f32';
  return array instanceof Int16Array ? 'i16' : 'u16';
}

function aligned(bytes: number): number {
  return Math.ceil(bytes / 8) * 8;
}
