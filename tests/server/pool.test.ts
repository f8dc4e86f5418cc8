/** Threads whose jobs are given up while their answers are on the way. */
import { WorkerPool } from '@/workers/node/pool';
import type { MeasureJob } from '@/workers/protocol';

const JOB: MeasureJob = {
  kind: 'measure',
  path: '/none.wav',
  fileName: 'none.wav',
  sha256: null,
  layoutId: null,
  origin: null,
  treatedBefore: null,
  analysisPath: null,
};

let pool: WorkerPool;
beforeEach(() => {
  pool = new WorkerPool('dist/worker.cjs', 1);
});
afterEach(() => pool.close());

/** Gives a job up when its answer has come, and nobody has read it yet. */
async function giveUp(how: (cancel: AbortController) => unknown): Promise<void> {
  const cancel = new AbortController();
  const options = { signal: cancel.signal, onProgress: () => undefined };
  // The thread has started by the time it has answered once.
  await expect(pool.run(JOB, options)).rejects.toThrow('none.wav could not be opened');
  const running = pool.run(JOB, options);
  const untilMs = performance.now() + 300;
  while (performance.now() < untilMs);
  how(cancel);
  await expect(running).rejects.toThrow();
  // What comes too late comes by now.
  await new Promise((resolve) => setTimeout(resolve, 50));
}

test('an answer that comes after the pool was closed ends nothing', () => giveUp(() => pool.close()));

test('an answer that comes after its job was cancelled ends nothing, and the next job is done', async () => {
  await giveUp((cancel) => cancel.abort());
  const { signal } = new AbortController();
  await expect(pool.run(JOB, { signal, onProgress: () => undefined })).rejects.toThrow('could not be opened');
});
