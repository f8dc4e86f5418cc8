import { Readable } from 'node:stream';

/** A stream of Node.js as the web's own kind: the same object, of which the two sets of types know different things. */
export function webStream(stream: Readable): ReadableStream<Uint8Array> {
  return Readable.toWeb(stream) as unknown as ReadableStream<Uint8Array>;
}
