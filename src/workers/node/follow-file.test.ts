import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { MessageChannel } from 'node:worker_threads';
import { FileFollower } from './follow-file';
import { Recording } from './recording';
import { newCounters } from './segment-workers';
import run from './worker';

const RATE = 44_100;
const PART = 4410;

let folder: string;
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'opsimeter-follow-'));
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** 100 ms of tones that swell, with a click now and then and a stretch of silence. */
function part(n: number): [Float32Array, Float32Array] {
  const level = n > 180 && n < 200 ? 0 : 0.1 + 0.08 * Math.sin(n / 9);
  const left = Float32Array.from({ length: PART }, (_, i) => level * Math.sin(0.03 * (n * PART + i)));
  const right = left.map((x, i) => 0.7 * x + (n % 37 === 5 && i === 99 ? 1 : 0));
  return [left, right];
}

test.each([
  ['a few seconds', 53],
  ['some segments and a rest', 357],
  ['whole segments', 320],
])('a file of %s that is measured while it grows reads as it does when all of it is there', async (_, parts) => {
  const path = join(folder, `${parts}.wav`);
  const recording = await Recording.create(path, { sampleRateHz: RATE, channels: 2, channelMask: 3, bitDepth: 24 });
  let follower: FileFollower | undefined;
  for (let n = 0; n < parts; n++) {
    recording.add(part(n), PART);
    if (n % 11 !== 0) continue;
    while (recording.committedFrames < (n + 1) * PART - RATE) await new Promise((next) => setTimeout(next, 5));
    if (recording.committedFrames === 0) continue;
    follower ??= await FileFollower.open(path, 'growing.wav');
    follower.grown(recording.committedFrames);
  }
  await recording.finish();
  expect(recording.committedFrames).toBe(parts * PART);
  const followed = await follower?.finish(join(folder, `${parts}.followed`));
  const job = {
    kind: 'measure' as const,
    path,
    fileName: 'growing.wav',
    sha256: 'of these bytes',
    layoutId: null,
    origin: null,
    treatedBefore: null,
    analysisPath: join(folder, `${parts}.measured`),
  };
  const { port1, port2 } = new MessageChannel();
  const measured = await run({ job, port: port2, segmentWorkers: { next: newCounters(), ports: [] } });
  port1.close();
  expect(measured).toEqual({ answer: { ...followed, sha256: 'of these bytes' } });
  const bytes = (name: string) => readFileSync(join(folder, `${parts}.${name}`));
  expect(bytes('followed').equals(bytes('measured'))).toBe(true);
});
