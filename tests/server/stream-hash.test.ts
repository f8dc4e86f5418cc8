import { createHash } from 'node:crypto';
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
