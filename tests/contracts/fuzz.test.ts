/** Headers as no tool writes them: whatever the bytes, a typed error or samples, soon and in little memory. */
import { seededRandom } from '@/cli/demo/random';
import { isAppError } from '@/core/errors/app-error';
import { bytesSource } from '@/formats/bytes';
import { readPcmMetadata } from '@/formats/open-metadata';
import { PcmReader } from '@/formats/pcm-reader';
import { buildAiff } from '../fixtures/aiff';
import { buildWav } from '../fixtures/wav';

const MUTATIONS = 24_000;
/** Of the processor's time: what else the machine does takes none of it. */
const MOST_CPU_MS = 1000;
const MOST_BYTES = 200_000_000;
const HEADER_BYTES = 120;

const data = Buffer.alloc(600, 0x35);
const SEEDS: readonly Buffer[] = [
  buildWav({ data }),
  buildWav({ data, bits: 24, channels: 5, channelMask: 0x37 }),
  buildWav({ data, bits: 32, formatTag: 3 }),
  buildWav({ data, bigEndian: true }),
  buildWav({ data, riffId: 'RF64', ds64DataBytes: 600, statedDataBytes: 0xffffffff }),
  buildAiff({ data }),
  buildAiff({ data, kind: 'sowt', bitDepth: 16 }),
  buildAiff({ data, kind: 'fl32', bitDepth: 32, ahead: [['NAME', new Uint8Array(7)]] }),
  buildAiff({ data, ahead: [['MARK', Buffer.from('000100010000000903616263', 'hex')]] }),
  buildWav({
    data,
    chunks: [
      { id: 'cue ', body: Buffer.alloc(28, 1) },
      { id: 'LIST', body: Buffer.from('adtllabl\x05\0\0\0') },
    ],
  }),
  buildWav({ data, chunks: [{ id: 'iXML', body: Buffer.from('<BWFXML><TAKE>1</TAKE></BWFXML>') }] }),
  buildWav({
    data,
    chunks: [
      { id: 'smpl', body: Buffer.alloc(60, 1) },
      { id: 'chna', body: Buffer.alloc(44, 1) },
    ],
  }),
];
const EXTREMES = [0, 1, 0x7f, 0x80, 0xff];

function mutated(seed: Buffer, random: () => number): Uint8Array {
  const bytes = Buffer.from(seed);
  const within = (n: number) => Math.floor(random() * n);
  const end = Math.min(HEADER_BYTES, bytes.length);
  for (let n = 1 + within(6); n > 0; n--) {
    const at = within(end);
    switch (within(5)) {
      case 0:
        bytes[at] = within(256);
        break;
      case 1:
        bytes[at] = EXTREMES[within(EXTREMES.length)] ?? Number.NaN;
        break;
      case 2:
        bytes.fill(EXTREMES[within(EXTREMES.length)] ?? Number.NaN, at, Math.min(end, at + 4));
        break;
      case 3:
        bytes.copyWithin(at, within(end), within(end));
        break;
      default:
        return bytes.subarray(0, within(bytes.length));
    }
  }
  return bytes;
}

test(`${MUTATIONS} mutated headers of every own format`, async () => {
  const random = seededRandom(20_261_125);
  const before = process.memoryUsage();
  let read = 0;
  let refused = 0;
  for (let i = 0; i < MUTATIONS; i++) {
    const bytes = mutated(SEEDS[i % SEEDS.length] as Buffer, random);
    const started = process.cpuUsage();
    try {
      const reader = await PcmReader.open(bytesSource(bytes), 'file');
      await readPcmMetadata(bytesSource(bytes), reader.header);
      for (let piece = await reader.next(); piece; piece = await reader.next()) {
        expect(piece.channels.every((samples) => samples.subarray(0, piece?.frames).every(Number.isFinite))).toBe(true);
      }
      read++;
    } catch (error) {
      if (!isAppError(error)) throw error;
      refused++;
    }
    const { user, system } = process.cpuUsage(started);
    expect((user + system) / 1000).toBeLessThan(MOST_CPU_MS);
  }
  const after = process.memoryUsage();
  expect(after.heapUsed + after.external - before.heapUsed - before.external).toBeLessThan(MOST_BYTES);
  // Mutations that all read the same way would show nothing.
  expect(read).toBeGreaterThan(MUTATIONS / 10);
  expect(refused).toBeGreaterThan(MUTATIONS / 10);
});
