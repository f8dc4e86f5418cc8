/**
 * Through outboard gear: what comes back is found to the sample, and becomes a programme beside the one that was sent. The gear is SoX, so
 * that neither gain, delay nor filters are this project's own.
 */
import { execFileSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { passProblems } from '@/core/outboard/pass-words';
import { gainOnly } from '@/core/treatment/treatment';
import { exportJob } from '@/server/jobs/export-job';
import { receiveJob } from '@/server/jobs/import-job';
import { viewJob } from '@/server/jobs/jobs';
import { viewProgramme } from '@/server/jobs/programme-view';
import { removeProgramme } from '@/server/jobs/programmes';
import { forgetPass } from '@/server/outboard/passes';
import type { PassReading } from '@/workers/protocol';
import { code as errorCode } from '../fixtures/error-code';
import { musicLike } from '../fixtures/material';
import { TestServer } from '../fixtures/server';
import { until } from '../fixtures/until';
import { wavOf } from '../fixtures/wav';

const RATE_HZ = 48_000;
/** What stands ahead of the programme in what is recorded, and is recorded behind it. */
const AHEAD = 4321;
const BEHIND = 2 * RATE_HZ;

let host: TestServer;
let programmeId: string;
let sent: Float32Array[];
beforeAll(async () => {
  host = new TestServer();
  sent = musicLike().map((samples) => samples.slice(14 * RATE_HZ, 26 * RATE_HZ));
  ({ programmeId } = await host.measured(wavOf(sent, { bits: 32, float: true }), 'mix.wav'));
});
afterAll(() => host.remove());

const frames = () => sent[0]?.length ?? 0;

/** What SoX makes of some sound: planar, as many frames as went in and what is recorded behind it. */
function throughSox(channels: readonly Float32Array[], effects: readonly string[]): Float32Array[] {
  const path = join(host.root, 'sent.wav');
  writeFileSync(path, wavOf(channels, { bits: 32, float: true }));
  const raw = execFileSync('sox', ['-V1', path, '-t', 'f32', '-', ...effects, 'pad', '0', '2'], { maxBuffer: 1 << 28 });
  const all = new Float32Array(raw.buffer.slice(raw.byteOffset, raw.byteOffset + raw.length));
  return channels.map((_, c) => Float32Array.from({ length: frames() + BEHIND }, (__, i) => all[i * 2 + c] ?? 0));
}

/** Noise of a converter, at −100 dBFS, the same at each run. */
function noise(seed: number): number {
  return 1e-5 * (((Math.sin(seed * 12.9898) * 43_758.5453) % 1) - 0.5);
}

/** Sends a pass as a page does, a part after the other; returns it as the desk sees it. */
async function pass(returned: readonly Float32Array[], options: { sentAs?: readonly Float32Array[] } = {}) {
  const out = options.sentAs ?? sent;
  const fields = { sentName: 'v1', treatment: gainOnly(0), sampleRateHz: RATE_HZ, channels: 2, frames: frames() };
  const passId = await host.server.passes.begin(programmeId, fields);
  const both = [...out, ...returned].map((samples) => {
    const whole = new Float32Array(AHEAD + frames() + BEHIND);
    whole.set(samples.subarray(0, frames() + BEHIND), AHEAD);
    return whole;
  });
  const all = new Float32Array(4 * (AHEAD + frames() + BEHIND));
  for (const [c, samples] of both.entries()) {
    for (let n = 0; n < samples.length; n++) all[4 * n + c] = samples[n] as number;
  }
  const partFrames = 50_000;
  for (let at = 0; at < all.length / 4; at += partFrames) {
    host.server.passes.push(passId, at, all.slice(4 * at, 4 * (at + partFrames)));
  }
  await host.server.passes.finish(passId, AHEAD);
  await host.server.runner.whenIdle();
  const view = viewProgramme(host.server, programmeId).passes.find(({ id }) => id === passId);
  if (!view) throw new Error('the pass is gone');
  return view;
}

test.each([
  [0, 1],
  [1, 0.5],
  [511, 0.25],
  [12_345, 1.1],
  [71_999, 0.8],
])(
  'a delay of %i frames and a gain of × %f are found, and what came back is what SoX made',
  async (delayFrames, gain) => {
    const returned = throughSox(sent, ['vol', String(gain), 'pad', `${delayFrames}s`]);
    const { reading, returned: back, number } = await pass(returned);
    expect(reading?.delayFrames).toBe(delayFrames);
    expect(reading?.gainDb).toBeCloseTo(20 * Math.log10(gain), 3);
    expect(reading).toMatchObject({ isInverted: false, shifts: [], driftPpm: null, dropOuts: [] });
    expect(reading?.places).toBeGreaterThan(10);
    expect(reading?.heldPlaces).toBe(reading?.places);
    expect(reading?.likeness).toBeGreaterThan(0.999);
    expect(back?.format).toMatchObject({ sampleRateHz: RATE_HZ, channels: 2, frames: frames(), bitDepth: 32 });
    const programme = viewProgramme(host.server, back?.programmeId ?? '');
    expect(programme).toMatchObject({ title: `mix (pass ${number})`, fileName: `mix pass ${number}.wav` });
    expect(programme.measured?.readings.integratedLufs).toBe(back?.integratedLufs);
    // Read by FFmpeg, it is what SoX made of what was sent, sample for sample.
    const path = host.server.folder.source(back?.sha256 ?? '');
    const raw = execFileSync('ffmpeg', ['-v', 'error', '-i', path, '-f', 'f32le', '-'], { maxBuffer: 1 << 28 });
    const samples = new Float32Array(raw.buffer.slice(raw.byteOffset, raw.byteOffset + raw.length));
    expect(samples).toHaveLength(2 * frames());
    let most = 0;
    for (let i = 0; i < samples.length; i++) {
      const wanted = returned[i % 2]?.[(i >> 1) + delayFrames] ?? Number.NaN;
      most = Math.max(most, Math.abs((samples[i] ?? Number.NaN) - wanted));
    }
    expect(most).toBe(0);
  },
);

test.each([
  ['a transformer’s low and high end', ['highpass', '15', 'lowpass', '24k', 'equalizer', '60', '0.7q', '3']],
  ['an equaliser', ['bass', '+4', '100', 'treble', '+3', '8k', 'equalizer', '2k', '1q', '-4']],
  ['a compressor', ['compand', '0.005,0.1', '6:-70,-70,-20,-14,0,-6', '-2']],
  ['saturation', ['overdrive', '6', '20']],
])('through %s the delay is found within a frame', async (_, effects) => {
  const returned = throughSox(sent, [...effects, 'pad', '2000s']).map((samples, c) =>
    samples.map((x, n) => x + noise(2 * n + c)),
  );
  const { reading } = await pass(returned);
  expect(Math.abs((reading?.delayFrames ?? Number.NaN) - 2000)).toBeLessThanOrEqual(1);
  expect(reading).toMatchObject({ isInverted: false, shifts: [] });
});

test('what came back upside down is told, and stays so', async () => {
  const { reading } = await pass(throughSox(sent, ['vol', '-0.8', 'pad', '300s']));
  expect(reading).toMatchObject({ delayFrames: 300, isInverted: true });
});

test('what was lost on the way is told with its place', async () => {
  // From 5 s on, 480 frames of what came back are missing, so that all behind them comes that much earlier.
  const returned = throughSox(sent, ['pad', '900s']).map((samples) => {
    const cut = 5 * RATE_HZ;
    const rest = new Float32Array(samples.length);
    rest.set(samples.subarray(0, cut));
    rest.set(samples.subarray(cut + 480), cut);
    return rest.map((x, n) => x + noise(n));
  });
  const { reading } = await pass(returned);
  expect(reading?.shifts).toHaveLength(1);
  const [shift] = reading?.shifts ?? [];
  expect(reading?.delayFrames).toBe(900);
  expect(shift?.byFrames).toBe(-480);
  expect(shift?.startFrame).toBeLessThan(5 * RATE_HZ);
  expect(shift?.endFrame).toBeGreaterThan(5 * RATE_HZ);
  expect((shift?.endFrame ?? 0) - (shift?.startFrame ?? 0)).toBeLessThan(2 * RATE_HZ);
  expect(passProblems(reading as PassReading, RATE_HZ)).toEqual([
    expect.stringMatching(/^between 0:0[34] and 0:0[56] 480 frames were lost/),
  ]);
  expect(reading?.driftPpm).toBeNull();
});

test('where nothing came back for a moment is told to the frame', async () => {
  const returned = throughSox(sent, ['pad', '700s']).map((samples) => {
    const holed = samples.map((x, n) => x + noise(n));
    holed.fill(0, 700 + 5 * RATE_HZ, 700 + 5 * RATE_HZ + 256);
    return holed;
  });
  const { reading } = await pass(returned);
  expect(reading).toMatchObject({ delayFrames: 700, dropOuts: [{ startFrame: 5 * RATE_HZ, frames: 256 }] });
});

test('clocks that differ are told as such', async () => {
  // Two devices 200 ppm apart: 115 frames in 12 s.
  const returned = throughSox(sent, ['pad', '500s', 'speed', String(1 / 1.0002), 'rate', '-v', String(RATE_HZ)]);
  const { reading } = await pass(returned);
  expect(reading?.shifts.length).toBeGreaterThan(1);
  expect(Math.abs((reading?.driftPpm ?? 0) - 200)).toBeLessThan(10);
});

test('what is not what was sent is refused, and what was recorded waits until it is forgotten', async () => {
  const other = musicLike().map((samples) => samples.slice(5 * RATE_HZ).reverse());
  const { task, returned, id } = await pass(other);
  expect(task).toMatchObject({ state: 'failed', error: { code: 'pass-not-found' } });
  expect(returned).toBeNull();
  const silent = await pass(other.map((samples) => samples.map(() => 0)));
  expect(silent.task?.error?.code).toBe('pass-not-found');
  for (const passId of [id, silent.id]) await forgetPass(host.server, passId);
  expect(host.files().filter((name) => name.startsWith('passes'))).toEqual([]);
});

test('a pass that is not whole is refused, and leaves nothing', async () => {
  const fields = { sentName: 'before', treatment: gainOnly(0), sampleRateHz: RATE_HZ, channels: 2, frames: 1000 };
  const before = viewJob(host.server, host.jobId).programmes.length;
  const begin = () => host.server.passes.begin(programmeId, fields);
  const part = new Float32Array(4 * 600);
  const short = await begin();
  host.server.passes.push(short, 0, part);
  expect(await errorCode(() => host.server.passes.finish(short, 0))).toBe('pass-interrupted');
  const holed = await begin();
  host.server.passes.push(holed, 0, part);
  // Sent again, since its answer was lost: taken once.
  host.server.passes.push(holed, 0, part);
  expect(await errorCode(() => host.server.passes.push(holed, 700, part))).toBe('pass-interrupted');
  expect(await errorCode(() => host.server.passes.push(holed, 600, part))).toBe('pass-interrupted');
  await host.server.passes.cancel(await begin());
  expect(await errorCode(() => host.server.passes.begin('nothing', fields))).toBe('not-found');
  await until(() => host.files().every((name) => !name.startsWith('passes')));
  expect(viewJob(host.server, host.jobId).programmes).toHaveLength(before);
});

test('a job that goes to another machine knows what came back', async () => {
  const own = await pass(throughSox(sent, ['vol', '0.9', 'pad', '88s']));
  const { body } = await exportJob(host.server, host.jobId);
  const other = new TestServer();
  try {
    const jobId = await receiveJob(other.server, 'job.zip', body);
    const [programme] = viewJob(other.server, jobId).programmes;
    const there = programme?.passes.find(({ number }) => number === own.number);
    expect(there).toMatchObject({ sentName: 'v1', reading: own.reading, returned: { sha256: own.returned?.sha256 } });
    expect(there?.returned?.programmeId).not.toBe(own.returned?.programmeId);
  } finally {
    await other.remove();
  }
});

test('what came back and was removed from the job is no pass of it any more', async () => {
  const own = await pass(throughSox(sent, ['pad', '77s']));
  removeProgramme(host.server, own.returned?.programmeId ?? '', true);
  const ids = () => viewProgramme(host.server, programmeId).passes.map(({ id }) => id);
  expect(ids()).not.toContain(own.id);
  removeProgramme(host.server, own.returned?.programmeId ?? '', false);
  expect(ids()).toContain(own.id);
});
