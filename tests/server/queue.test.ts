import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { AppError } from '@/core/errors/app-error';
import { openDatabase } from '@/server/db/client';
import { log } from '@/server/log';
import { TaskQueue } from '@/server/tasks/queue';
import { Later, type TaskEvent, TaskRunner } from '@/server/tasks/runner';
import { until } from '../fixtures/until';

let nowMs = 1000;
const clock = { now: () => nowMs++ };
const newQueue = () => new TaskQueue(openDatabase(':memory:'), clock);
const record = { code: 'unexpected', happened: 'x.', safe: '', todo: '' } as const;

test('tasks are claimed once each, the oldest first', () => {
  const queue = newQueue();
  const ids = ['a', 'b', 'c'].map((subject) => queue.enqueue('measure', subject).id);
  expect([queue.claim()?.id, queue.claim()?.id, queue.claim()?.id, queue.claim()]).toEqual([...ids, undefined]);
});

test('asking twice for the same work makes one task, until that has ended', () => {
  const queue = newQueue();
  const first = queue.enqueue('measure', 'a');
  expect(queue.enqueue('measure', 'a').id).toBe(first.id);
  queue.claim();
  expect(queue.enqueue('measure', 'a').id).toBe(first.id);
  expect(queue.enqueue('render', 'a').id).not.toBe(first.id);
  queue.finish(first.id);
  expect(queue.enqueue('measure', 'a').id).not.toBe(first.id);
});

test('what has ended stays ended', () => {
  const queue = newQueue();
  const { id } = queue.enqueue('measure', 'a');
  queue.claim();
  expect(queue.cancel(id)).toMatchObject({ state: 'cancelled' });
  expect(queue.finish(id)).toBeUndefined();
  expect(queue.fail(id, record)).toBeUndefined();
  queue.heartbeat(id, { fraction: 0.9, timesRealTime: 10 });
  expect(queue.get(id)).toMatchObject({ state: 'cancelled', fraction: 0 });
});

test('what a dead process was running is queued again', () => {
  const queue = newQueue();
  const { id } = queue.enqueue('measure', 'a');
  queue.claim();
  queue.heartbeat(id, { fraction: 0.4, timesRealTime: 80 });
  queue.resume();
  expect(queue.claim()).toMatchObject({ id, attempts: 2, fraction: 0 });
});

test('what three processes in a row ended over is set aside, with the reason, until a person asks for it', () => {
  const ended: string[] = [];
  const queue = new TaskQueue(openDatabase(':memory:'), clock, ({ id }) => ended.push(id));
  const { id } = queue.enqueue('render', 'poison');
  for (let process = 1; process <= 2; process++) {
    expect(queue.claim()).toMatchObject({ id, attempts: process });
    queue.resume();
    expect(queue.get(id)).toMatchObject({ state: 'queued' });
  }
  queue.claim();
  queue.resume();
  expect(queue.get(id)).toMatchObject({ state: 'failed', error: { code: 'set-aside' } });
  expect(ended).toEqual([id]);
  expect(queue.claim()).toBeUndefined();
  const again = queue.enqueue('render', 'poison');
  expect(queue.claim()).toMatchObject({ id: again.id, attempts: 1 });
});

test('what was deferred, or only could not be recorded, is not held against a task', () => {
  const queue = newQueue();
  const { id } = queue.enqueue('send', 'a');
  for (let k = 0; k < 9; k++) {
    expect(queue.claim()).toMatchObject({ id, attempts: 1 });
    if (k % 3 === 0) queue.postpone(id, 0);
    else if (k % 3 === 1) queue.release([id]);
    else queue.requeueLost([]);
    queue.resume();
  }
  expect(queue.get(id)).toMatchObject({ state: 'queued', attempts: 0 });
});

test('the newest task speaks for its subject', () => {
  const queue = newQueue();
  const first = queue.enqueue('measure', 'a');
  queue.claim();
  queue.fail(first.id, record);
  const second = queue.enqueue('measure', 'a');
  expect(queue.latest('measure', ['a', 'b']).get('a')?.id).toBe(second.id);
  expect(queue.latest('measure', []).size).toBe(0);
});

test('the end of a task that could not be recorded is not lost in silence', () => {
  const db = openDatabase(':memory:');
  const queue = new TaskQueue(db, clock);
  const { id } = queue.enqueue('measure', 'a');
  queue.claim();
  // A full disk: no page can be added for an error that needs some.
  db.$client.pragma(`max_page_count = ${db.$client.pragma('page_count', { simple: true })}`);
  const long = { ...record, happened: 'x'.repeat(100_000) };
  expect(() => queue.fail(id, long)).toThrow(/full/);
  expect(queue.get(id)).toMatchObject({ state: 'running' });
  db.$client.pragma('max_page_count = 1000000');
  queue.requeueLost([id]);
  expect(queue.claim()).toBeUndefined();
  queue.requeueLost([]);
  expect(queue.claim()).toMatchObject({ id, attempts: 1 });
});

test('a row that was changed is never read by get(), which loses a commit that fails', () => {
  const files = readdirSync('src', { recursive: true, encoding: 'utf8' }).filter((name) => name.endsWith('.ts'));
  const found = files.filter((name) => /\.returning\([^)]*\)\s*\.get\(/.test(readFileSync(join('src', name), 'utf8')));
  expect(found).toEqual([]);
});

describe('the runner', () => {
  function newRunner(work: (subject: string, signal: AbortSignal) => Promise<void>) {
    const queue = newQueue();
    const events: TaskEvent[] = [];
    const handler = (subject: string, { signal }: { signal: AbortSignal }) => work(subject, signal);
    const runner = new TaskRunner({
      queue,
      lanes: [
        { kinds: ['measure', 'render'], most: 2 },
        { kinds: ['send', 'check'], most: 1 },
      ],
      publish: (event) => events.push(event),
      handlers: {
        measure: handler,
        render: handler,
        assemble: handler,
        'null-test': handler,
        batch: handler,
        send: handler,
        check: handler,
        'copy-out': handler,
        align: handler,
        tracks: handler,
        rendering: handler,
      },
    });
    return { queue, runner, events };
  }

  test('runs as many at once as it may, and all in the end', async () => {
    let running = 0;
    let most = 0;
    const done: string[] = [];
    const { queue, runner } = newRunner(async (subject) => {
      most = Math.max(most, ++running);
      await new Promise((resolve) => setTimeout(resolve, 5));
      running--;
      done.push(subject);
    });
    for (const subject of 'abcdefg') queue.enqueue('measure', subject);
    await runner.whenIdle();
    expect(most).toBe(2);
    expect(done.sort().join('')).toBe('abcdefg');
  });

  test('what was laid back is taken up on time, also while others wait for another lane', async () => {
    const tries: number[] = [];
    let end = () => {};
    const long = new Promise<void>((resolve) => {
      end = resolve;
    });
    const { queue, runner } = newRunner(async (subject) => {
      if (subject !== 'sent') return long;
      tries.push(Date.now());
      if (tries.length === 1) throw new Later(20);
    });
    for (const subject of ['a', 'b', 'waits']) queue.enqueue('measure', subject);
    const { id } = queue.enqueue('send', 'sent');
    runner.wake();
    await until(() => queue.get(id)?.state === 'done');
    expect(tries).toHaveLength(2);
    end();
    await runner.whenIdle();
  });

  test.each([
    ['is about to be deferred', new Later(0)],
    ['is about to fail', new AppError('not-audio', { fileName: 'x.wav' })],
  ])('what is cancelled while it %s is cancelled', async (_, end) => {
    let endNow = () => {};
    const { queue, runner } = newRunner(
      () =>
        new Promise((__, reject) => {
          endNow = () => reject(end);
        }),
    );
    const { id } = queue.enqueue('send', 'sent');
    runner.wake();
    runner.cancel(id);
    endNow();
    await runner.whenIdle();
    expect(queue.get(id)).toMatchObject({ state: 'cancelled', attempts: 1, error: null });
  });

  test('what ends while nothing can be recorded is done again once it can', async () => {
    const db = openDatabase(':memory:');
    const queue = new TaskQueue(db, clock);
    let runs = 0;
    const work = async () => {
      if (runs++ === 0) throw new AppError('not-audio', { fileName: 'x'.repeat(100_000) });
    };
    const runner = new TaskRunner({
      queue,
      lanes: [{ kinds: ['measure'], most: 1 }],
      publish: () => undefined,
      handlers: {
        measure: work,
        render: work,
        assemble: work,
        'null-test': work,
        batch: work,
        send: work,
        check: work,
        'copy-out': work,
        align: work,
        tracks: work,
        rendering: work,
      },
    });
    const { id } = queue.enqueue('measure', 'a');
    db.$client.pragma(`max_page_count = ${db.$client.pragma('page_count', { simple: true })}`);
    const complaints: string[] = [];
    const { error } = log;
    Object.assign(log, { error: (_what: object, text: string) => complaints.push(text) });
    runner.wake();
    await until(() => complaints.length > 0);
    expect(queue.get(id)).toMatchObject({ state: 'running' });
    Object.assign(log, { error });
    expect(complaints).toEqual([expect.stringMatching(/could not be recorded/)]);
    db.$client.pragma('max_page_count = 1000000');
    await runner.whenIdle();
    expect(queue.get(id)).toMatchObject({ state: 'done', attempts: 1 });
  });

  test('cancelled is not failed, and a failure keeps its words', async () => {
    const { queue, runner, events } = newRunner((subject, signal) => {
      if (subject === 'bad') return Promise.reject(new AppError('not-audio', { fileName: 'x.wav' }));
      return new Promise((_, reject) => signal.addEventListener('abort', () => reject(new AppError('cancelled', {}))));
    });
    const waits = queue.enqueue('measure', 'endless');
    const fails = queue.enqueue('measure', 'bad');
    runner.wake();
    const queued = queue.enqueue('render', 'also endless');
    runner.cancel(queued.id);
    runner.cancel(waits.id);
    await runner.whenIdle();
    expect(queue.get(waits.id)).toMatchObject({ state: 'cancelled', error: null });
    expect(queue.get(queued.id)).toMatchObject({ state: 'cancelled' });
    expect(queue.get(fails.id)).toMatchObject({ state: 'failed', error: { code: 'not-audio' } });
    expect(events.filter(({ taskId }) => taskId === waits.id).map(({ state }) => state)).toEqual([
      'running',
      'cancelled',
    ]);
  });
});
