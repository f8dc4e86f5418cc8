/** Lines: heard, logged, watched and recorded by a thread of their own; what is recorded becomes a programme. */
import { spawn, spawnSync } from 'node:child_process';
import { createSocket } from 'node:dgram';
import { mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { eq } from 'drizzle-orm';
import type { LineFields } from '@/core/live/line';
import type { LineMoment } from '@/core/live/line-meter';
import { recordings } from '@/server/db/schema';
import { viewJob } from '@/server/jobs/jobs';
import { controlLine } from '@/server/lines/control';
import { eventsBetween } from '@/server/lines/line-events';
import { readLog } from '@/server/lines/line-log';
import { addLine, changeLine, lineRow, removeLine, viewLine } from '@/server/lines/lines';
import { logCsv } from '@/server/lines/log-csv';
import { recordingsOf } from '@/server/lines/recordings';
import { endThreads, Server, startThreads } from '@/server/server';
import { DataFolder } from '@/server/storage/data-folder';
import { bundled } from '../fixtures/bundled';
import { ffmpegLoudness } from '../fixtures/command';
import { code as errorCode } from '../fixtures/error-code';
import { musicLike } from '../fixtures/material';
import type { Said } from '../fixtures/recording-server';
import { TestServer } from '../fixtures/server';
import { until } from '../fixtures/until';
import { wavOf } from '../fixtures/wav';

let host: TestServer;
let lineId: string;
beforeEach(() => {
  host = new TestServer();
  lineId = add({});
});
afterEach(() => host.remove());

/** A simulated line whose alarms come soon. */
function add(change: Partial<LineFields>): string {
  const soon = { numbers: { seconds: 1 } };
  return addLine(host.server, {
    name: 'Dome feed',
    jobId: host.jobId,
    input: { kind: 'simulated', faults: [] },
    specId: null,
    plannedSeconds: null,
    alarms: { silence: soon, 'channel-lost': soon, mono: { isOn: true, ...soon } },
    ...change,
  });
}

const live = () => host.server.lines.live(lineId);
const setFaults = (faults: string[]) =>
  changeLine(host.server, lineId, { input: { kind: 'simulated', faults } as LineFields['input'] });
const events = () => eventsBetween(host.server, lineId, 0, 8e15, 100);
const whole = (kind: string) => until(() => events().find((own) => own.kind === kind && own.endMs !== null));

/** Everything that is told of a line in 100 ms, from now on. */
function momentsFromNow(): LineMoment[] {
  const moments: LineMoment[] = [];
  host.server.lines.listen((told) => {
    if (told.kind === 'moments') moments.push(...told.moments);
  });
  return moments;
}

test('a line that is recorded from its start reads as its file does', async () => {
  const moments = momentsFromNow();
  host.server.lines.turnOn(lineId);
  await until(() => (live().moment?.bin ?? 0) > 30);
  const recordingId = host.server.lines.record(lineId, { bitDepth: 32, preRollSeconds: 30 });
  await until(() => live().recording);
  await until(() => (live().moment?.bin ?? 0) > 60);
  host.server.lines.marker(lineId);
  await until(() => events().find(({ kind }) => kind === 'marker'));
  await until(() => (live().moment?.bin ?? 0) > 75);
  host.server.lines.stopRecording(lineId);
  const taken = await until(() =>
    recordingsOf(host.server, lineId).find((own) => own.id === recordingId && own.state === 'taken-in'),
  );
  // Its readings come with it: nothing is left to be measured.
  expect(host.read('SELECT kind FROM tasks')).toEqual([]);
  const [programme] = viewJob(host.server, host.jobId).programmes;
  expect(programme?.id).toBe(taken.programmeId);
  expect(programme?.fileName).toMatch(/^Dome feed \d{4}-\d\d-\d\d \d\d-\d\d-\d\d\.wav$/);
  expect(programme?.markers).toMatchObject([{ name: 'marker 1', endFrame: null }]);
  expect(programme?.format.frames).toBeGreaterThan(7.5 * 48_000);
  expectAlike(moments, 48_000);
});

test('a stream that FFmpeg sends is recorded, and reads as its file does', async () => {
  const rateHz = 44_100;
  const music = join(host.root, 'music.wav');
  writeFileSync(music, wavOf(musicLike(), { sampleRateHz: rateHz }));
  const port = await freeUdpPort();
  const address = `rtp://127.0.0.1:${port}` as const;
  // Payload type 10 is 16 bits, 44.1 kHz, stereo (RFC 3551).
  const sent = ['-c:a', 'pcm_s16be', '-payload_type', '10', '-f', 'rtp', address];
  const sender = spawn('ffmpeg', ['-nostdin', '-v', 'error', '-re', '-stream_loop', '-1', '-i', music, ...sent]);
  try {
    lineId = add({ input: { kind: 'stream', address } });
    const moments = momentsFromNow();
    host.server.lines.turnOn(lineId);
    await until(() => (live().moment?.bin ?? 0) > 20);
    expect(live().format).toMatchObject({ sampleRateHz: rateHz, channels: 2, layout: 'stereo' });
    host.server.lines.record(lineId, { bitDepth: 24, preRollSeconds: 30 });
    await until(() => (live().moment?.bin ?? 0) > 70);
    host.server.lines.stopRecording(lineId);
    await until(() => recordingsOf(host.server, lineId).some(({ state }) => state === 'taken-in'));
    await host.server.runner.whenIdle();
    expectAlike(moments, rateHz);
  } finally {
    sender.kill('SIGKILL');
  }
});

test('of frames that a page sends, those sent twice are taken once, and what never came is named, also from before it was recorded', async () => {
  const sampleRateHz = 8000;
  lineId = add({ input: { kind: 'input', device: '' } });
  // In steps of a 24-bit file.
  const sample = (frame: number) => (((frame * 7919) % 60_000) - 30_000) / 2 ** 15;
  const send = (startFrame: number, endFrame: number) => {
    const samples = Float32Array.from({ length: endFrame - startFrame }, (_, i) => sample(startFrame + i));
    const bytes = new Uint8Array(samples.buffer);
    host.server.lines.push(lineId, { sessionId: 'one', startFrame, sampleRateHz, channels: 1, bytes });
  };
  host.server.lines.turnOn(lineId);
  send(0, 4000);
  // The answer to these was lost: they come again, with what came meanwhile.
  send(0, 6000);
  send(0, 6000);
  send(8000, 12_000);
  // Of a page that sends nothing for three seconds the line is lost, however slow this machine is.
  const heardUntil = (bin: number) => {
    send(0, 100);
    return (live().moment?.bin ?? 0) >= bin;
  };
  await until(() => heardUntil(12));
  host.server.lines.record(lineId, { bitDepth: 24, preRollSeconds: 30 });
  await until(() => heardUntil(12) && live().recording);
  send(12_500, 20_000);
  await until(() => heardUntil(22));
  host.server.lines.stopRecording(lineId);
  const taken = await until(() => recordingsOf(host.server, lineId).find(({ state }) => state === 'taken-in'));
  expect(taken.facts).toMatchObject({
    frames: 20_000,
    gaps: [
      { startFrame: 6000, frames: 2000 },
      { startFrame: 12_000, frames: 500 },
    ],
  });
  const [programme] = viewJob(host.server, host.jobId).programmes;
  const path = host.server.folder.source(programme?.sha256 ?? '');
  const { stdout } = spawnSync('ffmpeg', ['-v', 'error', '-i', path, '-f', 'f32le', '-'], { maxBuffer: 1e8 });
  const read = new Float32Array(stdout.buffer, stdout.byteOffset, stdout.length / 4);
  const isLost = (frame: number) => (frame >= 6000 && frame < 8000) || (frame >= 12_000 && frame < 12_500);
  expect(read).toEqual(Float32Array.from({ length: 20_000 }, (_, frame) => (isLost(frame) ? 0 : sample(frame))));
});

/** The one programme of the job reads as the line did at the end of the last 100 ms that are whole in it. */
function expectAlike(moments: readonly LineMoment[], rateHz: number): void {
  const [programme] = viewJob(host.server, host.jobId).programmes;
  const readings = programme?.measured?.readings;
  const frames = programme?.format.frames ?? 0;
  const last = moments.find(({ bin }) => bin === Math.floor((10 * frames) / rateHz) - 1)?.readings;
  for (const key of [
    'integratedLufs',
    'loudnessRangeLu',
    'maxMomentaryLufs',
    'maxShortTermLufs',
    'truePeakDbtp',
  ] as const) {
    expect(Math.abs((readings?.[key] ?? Number.NaN) - (last?.[key] ?? Number.NaN))).toBeLessThan(0.01);
  }
  // FFmpeg's own meter of the same file.
  const theirs = ffmpegLoudness(host.server.folder.source(programme?.sha256 ?? ''));
  expect(Math.abs(theirs.integratedLufs - (last?.integratedLufs ?? Number.NaN))).toBeLessThanOrEqual(0.01);
}

async function freeUdpPort(): Promise<number> {
  const socket = createSocket('udp4');
  await new Promise<void>((bound) => socket.bind(0, '127.0.0.1', bound));
  const { port } = socket.address();
  await new Promise<void>((closed) => socket.close(closed));
  return port;
}

test('each fault is found while it lasts, and logged from where it began to where it ended', async () => {
  host.server.lines.turnOn(lineId);
  await until(() => (live().moment?.bin ?? 0) > 10);
  for (const [fault, kind] of [
    ['channel-lost', 'channel-lost'],
    ['silence', 'silence'],
    ['mono', 'mono'],
    ['too-hot', 'over'],
  ] as const) {
    const beganMs = Date.now();
    setFaults([fault]);
    await until(() => live().open.find((own) => own.kind === kind));
    const endedMs = Date.now();
    setFaults([]);
    const { startMs, endMs } = await whole(kind);
    // What is set is told to the line 150 ms later, together with what else is set by then.
    expect(startMs - beganMs).toBeGreaterThan(-300);
    expect(startMs - beganMs).toBeLessThan(1500);
    expect((endMs ?? 0) - endedMs).toBeLessThan(1500);
  }
  setFaults(['drop-outs']);
  const lost = await whole('frames-lost');
  expect(lost.words).toBe('1920 frames lost (40.0 ms)');
  await until(() => (live().transfer?.lostFrames ?? 0) > 0);
});

test('a line that is lost is told, opened again and recorded on, with silence in place of what never came', async () => {
  host.server.lines.turnOn(lineId);
  await until(() => live().moment);
  await expect(errorCode(() => changeLine(host.server, lineId, { input: STREAM }))).resolves.toBe('bad-request');
  host.server.lines.record(lineId, { bitDepth: 24, preRollSeconds: 0 });
  expect(await errorCode(() => host.server.lines.record(lineId, { bitDepth: 24, preRollSeconds: 0 }))).toBe(
    'already-recording',
  );
  await until(() => (live().recording?.frames ?? 0) > 24_000);
  setFaults(['break']);
  await until(() => live().state === 'lost');
  await wait(1500);
  setFaults([]);
  await until(() => live().state === 'sounding');
  const { startMs, endMs } = await whole('line-lost');
  await wait(1200);
  host.server.lines.stopRecording(lineId);
  const { facts, programmeId } = await until(() =>
    recordingsOf(host.server, lineId).find(({ state }) => state === 'taken-in'),
  );
  expect(programmeId).not.toBeNull();
  expect(facts?.gaps).toHaveLength(1);
  const [gap] = facts?.gaps ?? [];
  const lostMs = (endMs ?? 0) - startMs;
  expect(lostMs).toBeGreaterThan(1400);
  expect(Math.abs(((gap?.frames ?? 0) / 48_000) * 1000 - lostMs)).toBeLessThan(60);
  // Each second has its row, also while nothing came.
  await until(() => readLog(host.server, lineId, 0, 1e11, 1).length > 4);
  const steps = readLog(host.server, lineId, 0, 1e11, 1);
  steps.forEach(({ atS }, i) => {
    expect(atS).toBe((steps[0]?.atS ?? 0) + i);
  });
  expect(steps.some(({ states }) => states.lost === 1)).toBe(true);
  const { fileName, parts } = logCsv(host.server, lineId, steps[0]?.atS ?? 0, (steps.at(-1)?.atS ?? 0) + 1);
  expect(fileName).toMatch(/^dome-feed_\d{4}-\d\d-\d\d\.csv$/);
  const rows = [...parts].join('').trim().split('\r\n');
  expect(rows).toHaveLength(steps.length + 1);
  expect(rows[1]).toMatch(/^\d{4}-\d\d-\d\dT[\d:.]+Z,/);
  // Steps are made of the seconds in them.
  const [minute] = readLog(host.server, lineId, steps[0]?.atS ?? 0, (steps.at(-1)?.atS ?? 0) + 1, 86_400);
  const peaks = steps.flatMap(({ truePeakDbtp }) => truePeakDbtp ?? []);
  expect(minute?.truePeakDbtp).toBe(Math.max(...peaks));
  expect(minute?.states.lost).toBe(steps.filter(({ states }) => states.lost === 1).length);
});

const STREAM = { kind: 'stream', address: 'http://127.0.0.1:9/live.ogg' } as const;

test('a line is set up, changed and deleted; a stream is opened only from hosts that are allowed', async () => {
  const elsewhere = { kind: 'stream', address: 'http://203.0.113.7/live.ogg' } as const;
  expect(await errorCode(() => add({ input: elsewhere }))).toBe('line-not-allowed');
  expect(() => add({ input: { kind: 'stream', address: 'file:///etc/passwd' } })).toThrow(/An address begins with/);
  expect(() => add({ name: ' ' })).toThrow(/A line needs a name/);
  expect(await errorCode(() => add({ specId: 'nothing' }))).toBe('unknown-spec');
  changeLine(host.server, lineId, { name: 'Foyer' }, { name: 'Dome feed' });
  expect(await errorCode(() => changeLine(host.server, lineId, { name: 'Bar' }, { name: 'Dome feed' }))).toBe(
    'changed-elsewhere',
  );
  expect(viewLine(host.server, lineRow(host.server, lineId)).name).toBe('Foyer');
  expect(await errorCode(() => host.server.lines.marker(lineId))).toBe('line-off');
  await controlLine(host.server, lineId, { do: 'turn-on' });
  expect(await errorCode(() => removeLine(host.server, lineId))).toBe('bad-request');
  await controlLine(host.server, lineId, { do: 'turn-off' });
  removeLine(host.server, lineId);
  expect(await errorCode(() => lineRow(host.server, lineId))).toBe('not-found');
});

test('a stream that nobody sends is lost, says why, and is tried again until it is turned off', async () => {
  lineId = add({ input: STREAM });
  host.server.lines.turnOn(lineId);
  await until(() => live().state === 'lost');
  expect(live().error?.code).toBe('line-not-opened');
  expect(events().filter(({ kind }) => kind === 'line-lost')).toHaveLength(1);
  await host.server.lines.turnOff(lineId);
  expect(live().state).toBe('off');
  expect(events().every(({ endMs }) => endMs !== null)).toBe(true);
});

test('measuring is paused and reset while the line goes on', async () => {
  host.server.lines.turnOn(lineId);
  await until(() => (live().moment?.readings.seconds ?? 0) >= 1);
  host.server.lines.setHeld(lineId, true);
  await until(() => live().isHeld);
  const { bin, readings } = live().moment as LineMoment;
  await until(() => (live().moment?.bin ?? 0) > bin + 5);
  expect(live().moment?.readings.seconds).toBe(readings.seconds);
  host.server.lines.setHeld(lineId, false);
  await until(() => (live().moment?.readings.seconds ?? 0) > readings.seconds);
  host.server.lines.reset(lineId);
  await until(() => (live().moment?.readings.seconds ?? 9) < 0.5);
});

/** A server of its own that records a line, and what it says. */
function recordingServer(script: string, root: string, options: { bitDepth: 24 | 32; mostKilobytes?: number }) {
  const { bitDepth, mostKilobytes } = options;
  const limit = mostKilobytes === undefined ? '' : `ulimit -f ${mostKilobytes}; `;
  const line = `${limit}exec "${process.execPath}" "${script}" "${root}" ${bitDepth}`;
  const child = spawn('bash', ['-c', line], {
    stdio: ['ignore', 'pipe', 'ignore'],
    env: { ...process.env, NODE_OPTIONS: '' },
  });
  let out = '';
  child.stdout.on('data', (bytes: Buffer) => {
    out += bytes;
  });
  const said = (): Said[] =>
    out
      .split('\n')
      .slice(0, -1)
      .map((text) => JSON.parse(text) as Said);
  const kill = async () => {
    const exited = new Promise((resolve) => child.once('exit', resolve));
    child.kill('SIGKILL');
    await exited;
  };
  return { said, kill };
}

/** The one recording that a server has left in its folder. */
function leftIn(root: string): string {
  const [name = ''] = readdirSync(join(root, 'recordings')).filter((own) => own.endsWith('.wav'));
  return join(root, 'recordings', name);
}

const KILLED_AT_ONCE = 4;

test('killed twenty times, a server has lost no more than a second, and takes what it recorded in at the next start', async () => {
  const script = await bundled('recording-server');
  const left: { root: string; heardMs: number }[] = [];
  for (let batch = 0; batch < 20; batch += KILLED_AT_ONCE) {
    const killed = Array.from({ length: KILLED_AT_ONCE }, async (_, n) => {
      const root = mkdtempSync(join(tmpdir(), 'opsimeter-killed-'));
      const server = recordingServer(script, root, { bitDepth: 24 });
      await until(() => server.said().length > 0);
      // Some a moment after the recording began, some more than a second after it; each at another time within a commit of the file.
      await wait(137 * (batch + n));
      await server.kill();
      const said = server.said();
      // By what the line has sounded, not by the clock: a machine that gets no time is heard late.
      return { root, heardMs: 100 * ((said.at(-1)?.bins ?? 0) - (said[0]?.bins ?? 0)) };
    });
    left.push(...(await Promise.all(killed)));
  }
  const threads = startThreads();
  try {
    for (const { root, heardMs } of left) {
      const info = spawnSync('soxi', ['-s', leftIn(root)], { encoding: 'utf8' });
      expect(info.stderr).toBe('');
      const frames = Number(info.stdout);
      expect(frames).toBeGreaterThan(48 * (heardMs - 1000));
      const server = new Server(new DataFolder(root), threads);
      try {
        const row = await until(() =>
          server.db.select().from(recordings).where(eq(recordings.state, 'taken-in')).all().at(0),
        );
        expect(row.error?.code).toBe('recording-interrupted');
        const { programmes } = viewJob(server, row.jobId);
        expect(programmes.map(({ format }) => format.frames)).toEqual([frames]);
        // The line is heard again.
        await until(() => server.lines.live(row.lineId).moment);
      } finally {
        await server.close();
        rmSync(root, { recursive: true, force: true });
      }
    }
  } finally {
    await endThreads(threads);
  }
});

test('where the disk is full the recording ends with what there is, is taken in, and the measuring goes on', async () => {
  const script = await bundled('recording-server');
  const root = mkdtempSync(join(tmpdir(), 'opsimeter-full-'));
  // No file may grow beyond this: a recording does after some 6 s, before any other.
  const mostKilobytes = 2400;
  const server = recordingServer(script, root, { bitDepth: 32, mostKilobytes });
  try {
    const told = await until(() => server.said().find(({ state }) => state === 'taken-in'));
    expect(told.error).toBe('not-writable');
    const { bins } = told;
    await until(() => (server.said().at(-1)?.bins ?? 0) > bins + 10);
  } finally {
    await server.kill();
  }
  const [source = ''] = readdirSync(join(root, 'sources'));
  const path = join(root, 'sources', source);
  const { stdout, stderr } = spawnSync('sox', ['-t', 'wav', path, '-t', 'f32', '-'], { maxBuffer: 1 << 26 });
  // All that went into the file is there, but for less than a second of what it had not stated yet.
  expect(stdout.length).toBeGreaterThan(mostKilobytes * 1024 - 8 * 48_000);
  expect(String(stderr)).toBe('');
  rmSync(root, { recursive: true, force: true });
});
