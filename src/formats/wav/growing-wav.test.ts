import { bytesSource } from '../bytes';
import { type GrowingSink, GrowingWav } from './growing-wav';
import { readWavHeader } from './header';
import { wavHeader } from './writer';

/** A file in memory that may be looked at at any moment. */
class MemorySink implements GrowingSink {
  bytes = new Uint8Array(0);

  async write(bytes: Uint8Array): Promise<void> {
    const longer = new Uint8Array(this.bytes.length + bytes.length);
    longer.set(this.bytes);
    longer.set(bytes, this.bytes.length);
    this.bytes = longer;
  }

  async overwrite(bytes: Uint8Array, offset: number): Promise<void> {
    this.bytes.set(bytes, offset);
  }

  /** What RIFF states beside itself, and how long the file is. */
  get sizes() {
    return { stated: new DataView(this.bytes.buffer).getUint32(4, true) + 8, bytes: this.bytes.length };
  }
}

const MONO = { sampleRateHz: 48_000, channels: 1, channelMask: 0x4 } as const;
const frames = (count: number) => [Float32Array.from({ length: count }, (_, n) => ((n % 100) - 50) / 64)];

test('it states what was committed, and is read so at every moment', async () => {
  const sink = new MemorySink();
  const wav = await GrowingWav.create(sink, MONO);
  expect(sink.sizes.stated).toBe(sink.sizes.bytes);
  await wav.write(frames(1000), 1000);
  // There, but not stated yet: the size alone says that the recording was interrupted.
  expect((await readWavHeader(bytesSource(sink.bytes), 'r.wav')).format.frames).toBe(1000);
  await wav.commit();
  await wav.write(frames(501), 501);
  expect((await readWavHeader(bytesSource(sink.bytes), 'r.wav')).format.frames).toBe(1000);
  // 24 bits of 1501 frames end at an odd byte: the last waits.
  await wav.commit();
  expect(wav.committedFrames).toBe(1500);
  await wav.finish();
  const { format, missingFrames } = await readWavHeader(bytesSource(sink.bytes), 'r.wav');
  expect({ frames: format.frames, depth: format.bitDepth, missingFrames }).toEqual({
    frames: 1501,
    depth: 24,
    missingFrames: 0,
  });
  expect(sink.sizes.stated).toBe(sink.sizes.bytes);
});

test('beyond 4 GiB it is a BW64, with as many bytes ahead of its samples', () => {
  const layout = { sampleRateHz: 48_000, channels: 2, channelMask: 0x3, isGrowing: true };
  const least = wavHeader({ ...layout, frames: 0 });
  // 4 GiB less what stands ahead, in frames of 6 bytes.
  const most = Math.floor((0xffffffff + 8 - least.length) / 6);
  const ids = [most, most + 1].map((count) => {
    const header = wavHeader({ ...layout, frames: count });
    expect(header.length).toBe(least.length);
    const text = (at: number) => String.fromCharCode(...header.subarray(at, at + 4));
    return [text(0), text(12), new DataView(header.buffer).getBigUint64(28, true)];
  });
  expect(ids[0]?.slice(0, 2)).toEqual(['RIFF', 'JUNK']);
  expect(ids[1]).toEqual(['BW64', 'ds64', BigInt(6 * (most + 1))]);
});
