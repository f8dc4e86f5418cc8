import { bytesSource } from '../bytes';
import { chunksOf } from '../chunks';
import { appendedChunk, WAV_HEAD_BYTES } from './append-chunk';
import { wavHeader } from './writer';

/** Bytes of a whole WAV, with a chunk at its end. */
function withChunk(wav: Uint8Array, body: Uint8Array): Uint8Array {
  const { patch, tail } = appendedChunk(wav.subarray(0, WAV_HEAD_BYTES), wav.length, 'iXML', body);
  const whole = new Uint8Array(wav.length + tail.length);
  whole.set(wav);
  whole.set(tail, wav.length);
  whole.set(patch.bytes, patch.offset);
  return whole;
}

test.each([
  ['RIFF', false, 2],
  ['RIFF of an odd number of bytes', false, 3],
  ['BW64', true, 2],
])('%s: what was there stays, and the sizes are those of the whole', async (_name, isBw64, frames) => {
  const header = wavHeader({ sampleRateHz: 48_000, channels: 1, channelMask: 0, frames, bitDepth: 24, isBw64 });
  const wav = new Uint8Array(header.length + 3 * frames);
  wav.set(header);
  const whole = withChunk(wav, new TextEncoder().encode('<x/>!'));
  expect(whole.length % 2).toBe(0);
  const view = new DataView(whole.buffer);
  const riffBytes = isBw64 ? Number(view.getBigUint64(20, true)) : view.getUint32(4, true);
  expect(riffBytes).toBe(whole.length - 8);
  const ids: string[] = [];
  for await (const { id } of chunksOf(bytesSource(whole), true)) ids.push(id);
  expect(ids.slice(-2)).toEqual(['data', 'iXML']);
});
