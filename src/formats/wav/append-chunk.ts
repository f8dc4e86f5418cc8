/** A chunk behind all that a WAV holds: where what is written cannot know beforehand what it will say. */

/** So much of a file tells where its sizes stand. */
export const WAV_HEAD_BYTES = 28;

/**
 * What makes a file a WAV with one more chunk at its end: bytes that replace others, and bytes that are added.
 *
 * @param head the first `WAV_HEAD_BYTES` of it: a RIFF, or an RF64 or BW64, whose sizes stand in its `ds64`
 * @param fileBytes its size
 * @param id four characters
 */
export function appendedChunk(
  head: Uint8Array,
  fileBytes: number,
  id: string,
  body: Uint8Array,
): { patch: { offset: number; bytes: Uint8Array }; tail: Uint8Array } {
  const pad = fileBytes % 2;
  const tail = new Uint8Array(pad + 8 + body.length + (body.length % 2));
  const view = new DataView(tail.buffer);
  for (let i = 0; i < 4; i++) tail[pad + i] = id.charCodeAt(i);
  view.setUint32(pad + 4, body.length, true);
  tail.set(body, pad + 8);
  const riffBytes = fileBytes + tail.length - 8;
  if (String.fromCharCode(...head.subarray(0, 4)) === 'RIFF') {
    const bytes = new Uint8Array(4);
    new DataView(bytes.buffer).setUint32(0, riffBytes, true);
    return { patch: { offset: 4, bytes }, tail };
  }
  // RF64: `ds64`, its length, and the size of the whole (EBU Tech 3306, from memory).
  const bytes = new Uint8Array(8);
  new DataView(bytes.buffer).setBigUint64(0, BigInt(riffBytes), true);
  return { patch: { offset: 20, bytes }, tail };
}
