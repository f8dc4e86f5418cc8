import { createHash } from 'node:crypto';
import { readdirSync } from 'node:fs';
import { seededRandom } from '@/cli/demo/random';
import { StreamHash } from '@/workers/node/stream-hash';

test.each([0, 1, 300_001, 300_002, 999_999, 1_000_000, 7_654_321])('%i bytes hash as they do at once', async (size) => {
  const random = seededRandom(size);
  const bytes = Uint8Array.from({ length: size }, () => Math.floor(256 * random()));
  const hash = new StreamHash();
  try {
    for (let from = 0; from < size; ) {
      const buffer = await hash.buffer();
      const piece = bytes.subarray(from, from + Math.min(buffer.length, 300_001));
      buffer.set(piece);
      hash.update(buffer, piece.length);
      from += piece.length;
    }
    expect(await hash.digest()).toBe(createHash('sha256').update(bytes).digest('hex'));
  } finally {
    await hash.close();
  }
});

test('a thread that dies is told, and nothing waits for it for ever', async () => {
  const hash = new StreamHash('dist/not-built.mjs');
  for (let i = 0; i < 2; i++) hash.update(await hash.buffer(), 1);
  await expect(hash.digest()).rejects.toMatchObject({ code: 'worker-died' });
  await hash.close();
});

test('forty streams at once share two threads, and none is mixed up with another', async () => {
  const threadsNow = () => readdirSync('/proc/self/task').length;
  const before = threadsNow();
  const streams = Array.from({ length: 40 }, (_, k) => ({ hash: new StreamHash(), own: createHash('sha256'), k }));
  for (let part = 0; part < 4; part++) {
    for (const { hash, own, k } of streams) {
      const buffer = await hash.buffer();
      buffer.fill(k + part, 0, 1000 + k);
      own.update(buffer.subarray(0, 1000 + k));
      hash.update(buffer, 1000 + k);
    }
  }
  expect(threadsNow() - before).toBeLessThanOrEqual(2);
  // Some leave before their end, as an upload that breaks off.
  for (const { hash } of streams.slice(0, 10)) await hash.close();
  for (const { hash, own } of streams.slice(10)) expect(await hash.digest()).toBe(own.digest('hex'));
  await Promise.all(streams.map(({ hash }) => hash.close()));
  expect(threadsNow()).toBeLessThanOrEqual(before);
});
