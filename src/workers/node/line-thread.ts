/** The thread that hears all lines of a server: they go on whoever looks at them, and whatever else is measured. */
import { parentPort } from 'node:worker_threads';
import type { LineNews, LineOrder } from '../line-protocol';
import { LineRunner } from './line-runner';

const runners = new Map<string, LineRunner>();
/** What is asked of a line is done in order. */
const doing = new Map<string, Promise<void>>();

const tell = (news: LineNews) => parentPort?.postMessage(news);

parentPort?.on('message', (order: LineOrder) => {
  const lineId = order.kind === 'hear' ? order.line.lineId : order.lineId;
  const before = doing.get(lineId) ?? Promise.resolve();
  doing.set(
    lineId,
    before.then(() => carryOut(order, lineId)),
  );
});

async function carryOut(order: LineOrder, lineId: string): Promise<void> {
  const runner = runners.get(lineId);
  switch (order.kind) {
    case 'hear':
      if (runner) runner.set(order.line);
      else runners.set(lineId, new LineRunner(order.line, tell));
      return;
    case 'end':
      runners.delete(lineId);
      await runner?.end();
      return;
    case 'hold':
      return runner?.setHeld(order.isHeld);
    case 'reset':
      return runner?.reset();
    case 'record':
      return runner?.record(order.order);
    case 'stop-recording':
      return runner?.stopRecording();
    case 'frames':
      return runner?.push(order.frames);
    case 'marker':
      return runner?.marker();
  }
}
