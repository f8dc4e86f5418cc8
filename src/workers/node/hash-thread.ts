/** A thread that hashes what uploads bring, each under a number of its own, while the thread that serves goes on receiving. */
import { createHash, type Hash } from 'node:crypto';
import { parentPort } from 'node:worker_threads';
import type { HashAnswer, HashOrder } from './stream-hash';

const hashes = new Map<number, Hash>();

parentPort?.on('message', (order: HashOrder) => {
  const { id } = order;
  if ('buffer' in order) {
    const hash = hashes.get(id) ?? createHash('sha256');
    hashes.set(id, hash);
    hash.update(order.buffer.subarray(0, order.length));
    parentPort?.postMessage({ id, buffer: order.buffer } satisfies HashAnswer, [order.buffer.buffer]);
    return;
  }
  if (order.end === 'digest') {
    const sha256 = (hashes.get(id) ?? createHash('sha256')).digest('hex');
    parentPort?.postMessage({ id, sha256 } satisfies HashAnswer);
  }
  hashes.delete(id);
});
