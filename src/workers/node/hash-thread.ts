/** A thread that hashes what one upload brings, while the thread that serves goes on receiving. */
import { createHash } from 'node:crypto';
import { parentPort } from 'node:worker_threads';
import type { HashAnswer, HashOrder } from './stream-hash';

const hash = createHash('sha256');

parentPort?.on('message', (order: HashOrder) => {
  if (order === 'digest') {
    parentPort?.postMessage({ sha256: hash.digest('hex') } satisfies HashAnswer);
    return;
  }
  hash.update(order.buffer.subarray(0, order.length));
  parentPort?.postMessage({ buffer: order.buffer } satisfies HashAnswer, [order.buffer.buffer]);
});
