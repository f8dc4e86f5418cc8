/** A thread that measures one recording while it grows: `{ path, fileName }`. */
import { parentPort, workerData } from 'node:worker_threads';
import { toErrorRecord } from '@/core/errors/app-error';
import { FileFollower } from './follow-file';
import type { FollowAnswer, FollowOrder } from './followed-file';

const { path, fileName } = workerData as { path: string; fileName: string };
const opening = FileFollower.open(path, fileName);
/** What is asked is done in order. */
let doing: Promise<void> = opening.then(() => undefined);

parentPort?.on('message', (order: FollowOrder) => {
  doing = doing.then(async () => {
    const follower = await opening;
    if ('frames' in order) follower.grown(order.frames);
    else answer({ report: await follower.finish(order.analysisPath) });
  });
  doing.catch((error) => answer({ error: toErrorRecord(error) }));
});
doing.catch((error) => answer({ error: toErrorRecord(error) }));

function answer(message: FollowAnswer): void {
  parentPort?.postMessage(message);
}
