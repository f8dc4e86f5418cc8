/** Covers: what players would not show is refused, whatever it begins with. */
import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { deflateSync } from 'node:zlib';
import { seededRandom } from '@/cli/demo/random';
import { setCover } from '@/server/deliveries/cover';
import { COVER } from '../fixtures/cover';
import { code } from '../fixtures/error-code';
import { TestServer } from '../fixtures/server';
import { tone } from '../fixtures/signals';
import { wavOf } from '../fixtures/wav';

let host: TestServer;
let programmeId: string;
beforeAll(async () => {
  host = new TestServer();
  ({ programmeId } = await host.measured(wavOf([tone([{ seconds: 1, levelDbfs: -20 }], 48_000)])));
});
afterAll(() => host.remove());

async function* body(bytes: Uint8Array) {
  yield bytes;
}
const set = (bytes: Uint8Array) => code(() => setCover(host.server, programmeId, body(bytes)));
const OURS = 'nothing was thrown';

/** A picture of noise, as FFmpeg writes it. */
function picture(name: string, size: string): Buffer {
  const path = join(host.root, name);
  execFileSync('ffmpeg', [
    '-v',
    'error',
    '-f',
    'lavfi',
    '-i',
    `nullsrc=${size},geq=random(1)*255:128:128`,
    '-frames:v',
    '1',
    path,
  ]);
  return readFileSync(path);
}

/** A PNG of one colour that states any size, with rows of zeros that compress to nothing (as the specification of PNG has it). */
function emptyPng(width: number, height: number): Buffer {
  const chunk = (type: string, data: Buffer) => {
    const named = Buffer.concat([Buffer.from(type), data]);
    const bytes = Buffer.alloc(named.length + 8);
    bytes.writeUInt32BE(data.length);
    named.copy(bytes, 4);
    bytes.writeUInt32BE(crc32(named), named.length + 4);
    return bytes;
  };
  const header = Buffer.alloc(13);
  header.writeUInt32BE(width);
  header.writeUInt32BE(height, 4);
  header.set([1, 0, 0, 0, 0], 8);
  const rows = deflateSync(Buffer.alloc(Math.min(1e7, (Math.ceil(width / 8) + 1) * height)));
  const magic = Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]);
  return Buffer.concat([magic, chunk('IHDR', header), chunk('IDAT', rows), chunk('IEND', Buffer.alloc(0))]);
}

function crc32(bytes: Uint8Array): number {
  let crc = 0xffffffff;
  for (const byte of bytes) {
    crc ^= byte;
    for (let bit = 0; bit < 8; bit++) crc = (crc >>> 1) ^ (crc & 1 ? 0xedb88320 : 0);
  }
  return (crc ^ 0xffffffff) >>> 0;
}

test('PNG and JPEG as FFmpeg writes them are taken, up to what players show', async () => {
  expect(await set(COVER)).toBe(OURS);
  for (const [name, size] of [
    ['a.png', 's=300x300'],
    ['a.jpg', 's=3000x3000'],
  ] as const)
    expect(await set(picture(name, size))).toBe(OURS);
  expect(await set(emptyPng(640, 480))).toBe(OURS);
});

test('what only begins as a picture, states too much, or ends too soon, is refused', async () => {
  const random = seededRandom(1);
  const noise = Uint8Array.from({ length: 5000 }, () => Math.floor(256 * random()));
  for (const magic of [
    [0xff, 0xd8, 0xff],
    [0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a],
  ]) {
    expect(await set(Uint8Array.from([...magic, ...noise]))).toBe('not-a-picture');
    expect(await set(Uint8Array.from(magic))).toBe('not-a-picture');
  }
  for (const [width, height] of [
    [100_000, 100_000],
    [100_000, 1],
    [1, 8001],
  ] as const) {
    expect(await set(emptyPng(width, height))).toBe('not-a-picture');
  }
  for (const name of ['b.png', 'b.jpg']) {
    const whole = picture(name, 's=300x300');
    expect(await set(whole.subarray(0, whole.length / 2))).toBe('not-a-picture');
  }
  expect(await set(new Uint8Array(10_000_001))).toBe('not-a-picture');
  expect(await set(Buffer.from('<svg xmlns="http://www.w3.org/2000/svg"/>'))).toBe('not-a-picture');
  // What was there is there still.
  expect(host.server.db.query.programmes.findFirst().sync()?.cover?.mediaType).toBe('image/png');
});
