import { execFileSync } from 'node:child_process';
import { closeSync, openSync, readSync, statSync } from 'node:fs';
import { setTimeout as wait } from 'node:timers/promises';
import { createJob } from '@/server/jobs/jobs';
import { addLine } from '@/server/lines/lines';
import { Server } from '@/server/server';
import { DataFolder } from '@/server/storage/data-folder';
import { Recording } from '@/workers/node/recording';

const LARGE = { sampleRateHz: 192_000, channels: 8, channelMask: 0, bitDepth: 32 } as const;
/** 4.6 GB. */
const LARGE_SECONDS = 750;
const END_FRAMES = 1000;

/** Records beyond 4 GiB, as a line is recorded, and has FFmpeg count the frames and read the last. */
export async function recordLarge(path: string) {
  const { sampleRateHz, channels } = LARGE;
  const recording = await Recording.create(path, LARGE);
  const second = Array.from({ length: channels }, (_, c) =>
    Float32Array.from({ length: sampleRateHz }, (_unused, n) => Math.sin(n * (0.01 + 0.001 * c))),
  );
  const started = performance.now();
  for (let s = 0; s < LARGE_SECONDS; s++) {
    recording.add(second, sampleRateHz);
    while (recording.committedFrames < (s - 4) * sampleRateHz) await wait(1);
  }
  await recording.finish();
  if (recording.failure) throw recording.failure;
  const seconds = (performance.now() - started) / 1000;
  const frames = LARGE_SECONDS * sampleRateHz;
  const probe = ['-v', 'error', '-show_entries', 'stream=duration_ts', '-of', 'csv=p=0', path];
  const readFrames = Number(execFileSync('ffprobe', probe, { encoding: 'utf8' }).split(',')[0]);
  const from = (frames - END_FRAMES) / sampleRateHz;
  const raw = execFileSync('ffmpeg', ['-v', 'error', '-ss', String(from), '-i', path, '-f', 'f32le', '-'], {
    maxBuffer: 1 << 28,
  });
  const isSame =
    raw.length === 4 * channels * END_FRAMES &&
    second.every((samples, c) =>
      samples.subarray(sampleRateHz - END_FRAMES).every((x, n) => raw.readFloatLE(4 * (n * channels + c)) === x),
    );
  return { bytes: statSync(path).size, seconds, frames, readFrames, isSame, id: idOf(path) };
}

function idOf(path: string): string {
  const file = openSync(path, 'r');
  const id = Buffer.alloc(4);
  readSync(file, id, 0, 4, 0);
  closeSync(file);
  return id.toString('latin1');
}

/** What no line, one, eight, and eight that are recorded cost, each for so many seconds. */
export async function loadOfLines(data: string, seconds: number) {
  const server = new Server(new DataFolder(data));
  const jobId = createJob(server, 'Lines');
  const ids: string[] = [];
  const measured: { lines: number; recorded: number; percent: number; residentMb: number }[] = [];
  const measure = async (recorded: number) => {
    await wait(3000);
    const [before, startedMs] = [process.cpuUsage(), performance.now()];
    await wait(1000 * seconds);
    const { user, system } = process.cpuUsage(before);
    const percent = (100 * (user + system)) / 1000 / (performance.now() - startedMs);
    measured.push({ lines: ids.length, recorded, percent, residentMb: process.memoryUsage.rss() / 1e6 });
  };
  const turnOn = (count: number) => {
    while (ids.length < count) {
      const input = { kind: 'simulated', faults: [] } as const;
      const name = `Line ${ids.length + 1}`;
      const lineId = addLine(server, { name, jobId, input, specId: null, plannedSeconds: null, alarms: {} });
      server.lines.turnOn(lineId);
      ids.push(lineId);
    }
  };
  await measure(0);
  turnOn(1);
  await measure(0);
  turnOn(8);
  await measure(0);
  for (const lineId of ids) server.lines.record(lineId, { bitDepth: 24, preRollSeconds: 0 });
  await measure(ids.length);
  await server.close();
  return measured;
}
