/**
 * Named numeric arrays and a small description in one piece of bytes: how series and waveforms are kept on disk and
 * sent to a page. Layout, little-endian: uint32 length of the JSON head, the head, zero padding to 8, then each array
 * at a multiple of 8.
 */
const TYPES = { f32: Float32Array, f64: Float64Array } as const;
type TypeName = keyof typeof TYPES;

type BundledArray = Float32Array | Float64Array;

export interface ArrayBundle<Meta> {
  meta: Meta;
  arrays: Record<string, BundledArray>;
}

interface Head {
  meta: unknown;
  arrays: { name: string; type: TypeName; length: number }[];
}

export function encodeArrays<Meta>({ meta, arrays }: ArrayBundle<Meta>): Uint8Array {
  const head: Head = {
    meta,
    arrays: Object.entries(arrays).map(([name, array]) => ({
      name,
      type: array instanceof Float64Array ? 'f64' : 'f32',
      length: array.length,
    })),
  };
  const headBytes = new TextEncoder().encode(JSON.stringify(head));
  const start = aligned(4 + headBytes.length);
  const total = Object.values(arrays).reduce((offset, array) => offset + aligned(array.byteLength), start);
  const bytes = new Uint8Array(total);
  new DataView(bytes.buffer).setUint32(0, headBytes.length, true);
  bytes.set(headBytes, 4);
  let offset = start;
  for (const array of Object.values(arrays)) {
    bytes.set(new Uint8Array(array.buffer, array.byteOffset, array.byteLength), offset);
    offset += aligned(array.byteLength);
  }
  return bytes;
}

/** The arrays are views of the buffer, not copies. */
export function decodeArrays<Meta>(buffer: ArrayBuffer): ArrayBundle<Meta> {
  const headLength = new DataView(buffer).getUint32(0, true);
  const head = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 4, headLength))) as Head;
  let offset = aligned(4 + headLength);
  const arrays: Record<string, BundledArray> = {};
  for (const { name, type, length } of head.arrays) {
    const array = new TYPES[type](buffer, offset, length);
    arrays[name] = array;
    offset += aligned(array.byteLength);
  }
  return { meta: head.meta as Meta, arrays };
}

function aligned(bytes: number): number {
  return Math.ceil(bytes / 8) * 8;
}
