import { MessageChannel, type MessagePort, Worker } from 'node:worker_threads';
import { type AppError, toErrorRecord } from '@/core/errors/app-error';
import { SEGMENT_SECONDS, type Segment, segmentAt, segmentCount } from '@/core/loudness/segment';
import type { PcmHeader } from '@/formats/pcm-header';
import type { FrameReader } from '@/kernels/meter-kernel';
import { help, newCounters, SegmentInbox, takeSegments, tellInOrder } from './segment-workers';

const RATE = 8000;
const FRAMES = 4.5 * SEGMENT_SECONDS * RATE;

const header = {
  format: { sampleRateHz: RATE, channels: 1, frames: FRAMES },
  encoding: { type: 's16', isBigEndian: false },
} as PcmHeader;

/** Frames that tell where they stand: all of a segment have its number, in steps of 1/64. */
const read: FrameReader = (target, startFrame, frames) => {
  const samples = new Int16Array(target.buffer, target.byteOffset, frames);
  for (let i = 0; i < frames; i++) {
    samples[i] = 512 * (1 + Math.floor((startFrame + i) / (SEGMENT_SECONDS * RATE)));
  }
  return frames;
};

const segment = (index: number): Segment => ({
  ...segmentAt(index, RATE, FRAMES),
  channels: [],
  nonFiniteSamples: 0,
});

const code = (error: unknown) => (error as AppError).code;

/** An inbox for five segments, with so many helpers, that notes the order they are taken in. */
function inbox(helpers: number) {
  const channels = Array.from({ length: helpers }, () => new MessageChannel());
  const taken: number[] = [];
  const box = new SegmentInbox(
    header,
    channels.map(({ port1 }) => port1),
    ({ startFrame }) => taken.push(startFrame / (SEGMENT_SECONDS * RATE)),
  );
  return { box, taken, ports: channels.map(({ port2 }) => port2) as MessagePort[] };
}

test('the segments cover a programme once, the last one shorter', () => {
  const count = segmentCount(RATE, FRAMES);
  expect(count).toBe(5);
  let next = 0;
  for (let index = 0; index < count; index++) {
    const { startFrame, frames } = segmentAt(index, RATE, FRAMES);
    expect(startFrame).toBe(next);
    next += frames;
  }
  expect(next).toBe(FRAMES);
  expect(segmentCount(RATE, 1)).toBe(1);
});

test('segments are taken in order, whichever come first', async () => {
  const { box, taken, ports } = inbox(1);
  for (const index of [2, 0, 4, 3]) box.put(index, segment(index));
  expect(taken).toEqual([0]);
  const complete = box.whenComplete();
  box.put(1, segment(1));
  await complete;
  ports[0]?.close();
  expect(taken).toEqual([0, 1, 2, 3, 4]);
});

test('whoever takes segments takes each once, and leaves none', async () => {
  const next = newCounters();
  const found: [number, number | undefined][] = [];
  const take = () =>
    takeSegments(read, header, next, (index, { channels }) => {
      found.push([index, channels[0]?.samplePeak]);
    });
  await Promise.all([take(), take()]);
  expect(found.sort(([a], [b]) => a - b)).toEqual([0, 1, 2, 3, 4].map((index) => [index, (index + 1) / 64]));
});

test('what a helper measures reaches the inbox by its port', async () => {
  const { box, taken, ports } = inbox(1);
  const port = ports[0] as MessagePort;
  await help(read, header, newCounters(), port);
  port.close();
  await box.whenComplete();
  expect(taken).toEqual([0, 1, 2, 3, 4]);
});

test('a helper that fails is heard of', async () => {
  const { box, ports } = inbox(1);
  const failing: FrameReader = () => {
    throw new Error('the disk is gone');
  };
  await help(failing, header, newCounters(), ports[0] as MessagePort);
  const error = await box.whenComplete().catch((thrown: unknown) => thrown);
  expect(code(error)).toBe('worker-died');
  expect(toErrorRecord(error).happened).toContain('the disk is gone');
  expect(() => box.check()).toThrow('the disk is gone');
  ports[0]?.close();
});

test('when the last helper has ended and something is missing, nobody waits for it', async () => {
  const { box, ports } = inbox(2);
  for (const index of [0, 1, 2, 4]) box.put(index, segment(index));
  const complete = box.whenComplete().catch((thrown: unknown) => thrown);
  ports[0]?.close();
  ports[1]?.close();
  expect(code(await complete)).toBe('worker-died');
});

test('a helper that ends early costs nothing where the others have measured all', async () => {
  const { box, taken, ports } = inbox(1);
  ports[0]?.close();
  for (let index = 0; index < 5; index++) box.put(index, segment(index));
  await box.whenComplete();
  expect(taken).toHaveLength(5);
});

test('what goes wrong while a segment is taken stops the whole', async () => {
  const box = new SegmentInbox(header, [], () => {
    throw new Error('the disk is full');
  });
  box.put(0, segment(0));
  expect(() => box.check()).toThrow('the disk is full');
  await expect(box.whenComplete()).rejects.toThrow('the disk is full');
});

test('a helper that is far ahead waits until what came before is in order', async () => {
  const { port1, port2 } = new MessageChannel();
  const counters = newCounters();
  const ahead = 40;
  new Int32Array(counters)[0] = ahead;
  const long = { ...header, format: { ...header.format, frames: (ahead + 1) * SEGMENT_SECONDS * RATE } } as PcmHeader;
  for (let i = 0; i < 7; i++) tellInOrder(counters);
  const leader = `const counters = new Int32Array(require('node:worker_threads').workerData);
    setTimeout(() => { Atomics.add(counters, 1, 1); Atomics.notify(counters, 1); }, 300);`;
  new Worker(leader, { eval: true, workerData: counters });
  const came = new Promise((resolve) => port1.once('message', resolve));
  const startedMs = performance.now();
  await help(read, long, counters, port2);
  expect(performance.now() - startedMs).toBeGreaterThan(250);
  expect(await came).toMatchObject({ index: ahead });
  port1.close();
});
