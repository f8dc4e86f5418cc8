/** Random access to bytes that are somewhere: a file, a buffer. */
export interface ByteSource {
  readonly size: number;
  /**
   * Fills `target` from `offset` on and returns how many bytes there were: fewer than asked only at the end.
   */
  read(target: Uint8Array, offset: number): Promise<number>;
}

/** Takes bytes in order. Each call is finished before the next is made. */
export interface ByteSink {
  write(bytes: Uint8Array): Promise<void>;
}

/** A buffer as a source: for tests, and for headers already in memory. */
export function bytesSource(bytes: Uint8Array): ByteSource {
  return {
    size: bytes.length,
    async read(target, offset) {
      const piece = bytes.subarray(offset, offset + target.length);
      target.set(piece);
      return piece.length;
    },
  };
}

/** Up to `length` bytes from `offset` on: fewer only at the end. */
export async function readBytes(source: ByteSource, offset: number, length: number): Promise<DataView> {
  const bytes = new Uint8Array(length);
  const filled = await source.read(bytes, offset);
  return new DataView(bytes.buffer, 0, filled);
}

/** The four characters that name a chunk or a kind of file. */
export function fourCharacters(data: DataView, offset: number): string {
  return String.fromCharCode(...[0, 1, 2, 3].map((i) => data.getUint8(offset + i)));
}
