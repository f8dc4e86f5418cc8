/** How the server begins and ends: with its reason where it can't begin, and with everything that it has started. */
import { execFileSync } from 'node:child_process';
import {
  chmodSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { ffmpeg } from '../fixtures/ffmpeg';
import { Served } from '../fixtures/served';
import { TestServer } from '../fixtures/server';
import { until } from '../fixtures/until';

const PORT = 4396;
const folder = mkdtempSync(join(tmpdir(), 'opsimeter-start-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

test('a data folder that another process has: it ends with the reason, and gives no address out', async () => {
  const host = new TestServer();
  try {
    const started = Served.start(host.root, PORT);
    await expect(started).rejects.toThrow(/the server ended with 1: [\s\S]*Another Opsimeter is already working/);
    await expect(started).rejects.not.toThrow(/Opsimeter is at/);
  } finally {
    await host.remove();
  }
});

/** Command lines of all processes that this machine runs. */
function processes(): string[] {
  return readdirSync('/proc')
    .filter((name) => /^\d+$/.test(name))
    .flatMap((pid) => {
      try {
        return readFileSync(`/proc/${pid}/cmdline`, 'utf8').replaceAll('\0', ' ');
      } catch {
        return [];
      }
    });
}

test.each(['SIGTERM', 'SIGKILL'] as const)('ended by %s, it takes FFmpeg along', async (signal) => {
  const host = new TestServer();
  await host.server.close();
  // An FFmpeg that never comes to an end, told apart by how long it would sleep; what looks at files is the real one.
  const seconds = signal === 'SIGTERM' ? '86397' : '86398';
  const bin = join(folder, signal);
  mkdirSync(bin);
  writeFileSync(join(bin, 'ffmpeg'), `#!/bin/sh\nexec sleep ${seconds}\n`);
  chmodSync(join(bin, 'ffmpeg'), 0o755);
  symlinkSync(execFileSync('which', ['ffprobe'], { encoding: 'utf8' }).trim(), join(bin, 'ffprobe'));
  ffmpeg('-f', 'lavfi', '-i', 'sine=d=2', join(folder, `${signal}.mp3`));
  const isThere = () => processes().some((line) => line.includes(`sleep ${seconds}`));
  const served = await Served.start(host.root, PORT, { OPSIMETER_FFMPEG: join(bin, 'ffmpeg') });
  try {
    const body = new Uint8Array(readFileSync(join(folder, `${signal}.mp3`)));
    const address = `${served.base}/api/jobs/${host.jobId}/sources?name=a.mp3`;
    expect((await fetch(address, { method: 'PUT', body })).status).toBe(201);
    await until(isThere);
  } finally {
    await served.kill(signal);
  }
  await until(() => !isThere());
  rmSync(host.root, { recursive: true, force: true });
});

test('asked to end, it takes a recording in that was under way, and leaves with 0; what lies there is its owner’s alone', async () => {
  const host = new TestServer();
  await host.server.close();
  const served = await Served.start(host.root, PORT);
  const ask = async <T>(path: string, body: unknown) => {
    const headers = { 'Content-Type': 'application/json' };
    const answer = await fetch(`${served.base}/api${path}`, { method: 'POST', headers, body: JSON.stringify(body) });
    return (await answer.json()) as T;
  };
  const input = { kind: 'simulated', faults: [] };
  const line = { name: 'Feed', jobId: host.jobId, input, specId: null, plannedSeconds: null, alarms: {} };
  const { lineId } = await ask<{ lineId: string }>('/live', line);
  await ask(`/live/${lineId}/control`, { do: 'turn-on' });
  await until(async () => {
    const answer = await fetch(`${served.base}/api/live/${lineId}`);
    return ((await answer.json()) as { live: { state: string } }).live.state === 'sounding';
  });
  await ask(`/live/${lineId}/control`, { do: 'record' });
  await until(() => readdirSync(join(host.root, 'recordings')).some((name) => name.endsWith('.wav')));
  await wait(1500);
  expect(await served.kill('SIGTERM')).toBe(0);
  const [recording] = host.read<{ state: string; error: string | null }>('SELECT state, error FROM recordings');
  expect(recording).toEqual({ state: 'taken-in', error: null });
  const modeOf = (path: string) => statSync(join(host.root, path)).mode & 0o777;
  expect([modeOf('.'), modeOf('opsimeter.db')]).toEqual([0o700, 0o600]);
  rmSync(host.root, { recursive: true, force: true });
});
