/** Taking in, measuring, setting and writing, through the server's own code and real worker threads. */
import { createHash } from 'node:crypto';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { AppError } from '@/core/errors/app-error';
import { ENGINE_VERSION } from '@/core/loudness/readings';
import { specById } from '@/core/spec/catalogue';
import { solveGain } from '@/core/treatment/solver';
import { gainOnly, preparationOf } from '@/core/treatment/treatment';
import { decodeArrays } from '@/formats/array-bundle';
import { listJobs } from '@/server/jobs/job-list';
import { viewJob } from '@/server/jobs/jobs';
import { forecastCurrent, limitedReadings, limiterOptions, preparedProgramme } from '@/server/measure/limiting';
import { traceOf } from '@/server/measure/trace';
import { Server } from '@/server/server';
import { DataFolder } from '@/server/storage/data-folder';
import { steerTask } from '@/server/tasks/view';
import { changeTreatment, saveTreatment } from '@/server/treatments/treatments';
import { createDelivery } from '../fixtures/delivering';
import { TestServer } from '../fixtures/server';
import { measure, tone } from '../fixtures/signals';
import { buildWav, interleave, wavOf } from '../fixtures/wav';

const RATE = 48_000;
const music = tone(
  [
    { seconds: 4, levelDbfs: -30 },
    { seconds: 4, levelDbfs: -18 },
  ],
  RATE,
);
const WAV = wavOf([music, music]);
const PLAIN = preparationOf(gainOnly(0));

let host: TestServer;
beforeEach(() => {
  host = new TestServer();
});
afterEach(() => host.remove());

const programme = (index = 0) => {
  const found = viewJob(host.server, host.jobId).programmes[index];
  if (!found) throw new Error(`there is no programme ${index}`);
  return found;
};
const code = (thrown: unknown) => (thrown instanceof AppError ? thrown.code : thrown);

test('a file is stored under its hash, byte for byte, and measured as the meter does', async () => {
  const { sha256 } = await host.measured(WAV, 'Nightfall.wav');
  expect(sha256).toBe(createHash('sha256').update(WAV).digest('hex'));
  expect(readFileSync(join(host.root, 'sources', sha256)).equals(WAV)).toBe(true);
  expect(host.files()).toEqual([`analysis/${sha256}.${ENGINE_VERSION}.bin`, `sources/${sha256}`]);
  const { title, fileName, measured, task, format } = programme();
  expect({ title, fileName }).toEqual({ title: 'Nightfall', fileName: 'Nightfall.wav' });
  expect(task).toMatchObject({ state: 'done', fraction: 1 });
  expect(format).toMatchObject({ frames: 8 * RATE, layout: 'stereo' });
  const expected = measure([music, music], RATE).readings;
  expect(measured?.readings.integratedLufs).toBeCloseTo(expected.integratedLufs ?? Number.NaN, 5);
  expect(measured?.readings.truePeakDbtp).toBeCloseTo(expected.truePeakDbtp ?? Number.NaN, 5);
  expect(listJobs(host.server)).toMatchObject([{ id: host.jobId, name: 'Test job', programmes: 1, measured: 1 }]);
});

test('the same bytes are kept once, and said to be here', async () => {
  const first = await host.measured(WAV, 'a.wav');
  const again = await host.takeIn(WAV, 'b.wav');
  expect(again).toEqual({ ...first, alreadyThere: true });
  expect(viewJob(host.server, host.jobId).programmes).toHaveLength(1);
  expect(host.files().filter((file) => file.startsWith('incoming'))).toEqual([]);
});

test.each([
  ['an empty file', Buffer.alloc(0), undefined, 'empty-file'],
  ['text', Buffer.from('not sound'), undefined, 'not-audio'],
  ['a compressed file', buildWav({ formatTag: 0x55, data: Buffer.alloc(99) }), undefined, 'unsupported-codec'],
  ['an interrupted transfer', WAV.subarray(0, 50_000), WAV.length, 'upload-interrupted'],
])('%s leaves nothing behind and touches nothing', async (_, bytes, announcedBytes, expected) => {
  await host.measured(WAV);
  const before = host.files();
  await expect(host.takeIn(bytes, 'bad.wav', announcedBytes).catch(code)).resolves.toBe(expected);
  expect(host.files()).toEqual(before);
  expect(viewJob(host.server, host.jobId).programmes).toHaveLength(1);
});

test('names from anywhere stay names', async () => {
  for (const [name, shown] of [
    ['../../../tmp/escape.wav', 'escape.wav'],
    ['星空 🎧.wav', '星空 🎧.wav'],
    [`${'n'.repeat(300)}.wav`, /^n+….wav$/],
  ] as const) {
    const bytes = wavOf([music.slice(0, 1000 + name.length)]);
    await host.takeIn(bytes, name);
    const { fileName } = programme(viewJob(host.server, host.jobId).programmes.length - 1);
    if (typeof shown === 'string') expect(fileName).toBe(shown);
    else expect(fileName).toMatch(shown);
  }
  expect(host.files().every((file) => /^(sources|analysis|incoming)\/[0-9a-f.a-z-]+$/.test(file))).toBe(true);
  await host.server.runner.whenIdle();
});

test('a job that is not there takes nothing in', async () => {
  const { takeIn } = await import('@/server/take-in/take-in');
  const body = (async function* () {
    yield WAV;
  })();
  await expect(takeIn(host.server, { jobId: 'none', fileName: 'a.wav', body }).catch(code)).resolves.toBe('not-found');
  expect(host.files()).toEqual([]);
});

test('a gain is saved as a version, which changes until something is written from it', async () => {
  const { programmeId } = await host.measured(WAV);
  expect(saveTreatment(host.server, programmeId, { gainDb: 1 })).toBe(1);
  expect(saveTreatment(host.server, programmeId, { gainDb: 2 })).toBe(1);
  await createDelivery(host.server, programmeId, 'ebu-r128');
  expect(saveTreatment(host.server, programmeId, { gainDb: 2 })).toBe(1);
  expect(saveTreatment(host.server, programmeId, { gainDb: 3 })).toBe(2);
  await host.server.runner.whenIdle();
  expect(programme()).toMatchObject({
    treatment: expect.objectContaining({ gainDb: 3 }),
    version: 2,
    versions: [
      { version: 1, isWritten: true },
      { version: 2, isWritten: false },
    ],
  });
  expect(programme().deliveries[0]).toMatchObject({ treatmentVersion: 1, treatment: { gainDb: 2 } });
  expect(() => saveTreatment(host.server, 'none', { gainDb: 0 })).toThrow('does not exist');
});

test('a delivery lands where it was predicted, is measured from the written file, and never overwrites', async () => {
  const { programmeId, sha256 } = await host.measured(WAV, 'Nightfall overture.wav');
  const spec = specById('ebu-r128');
  const power = await host.server.analysis(sha256, (analysis) => analysis.weightedPower());
  const source = host.server.sourceReport(sha256);
  const gainDb = solveGain((source as NonNullable<typeof source>).readings, power, spec)?.gainDb ?? 0;
  saveTreatment(host.server, programmeId, { gainDb });
  await createDelivery(host.server, programmeId, 'ebu-r128');
  await createDelivery(host.server, programmeId, 'ebu-r128');
  await host.server.runner.whenIdle();
  const [second, first] = programme().deliveries;
  expect(first?.fileName).toBe('nightfall-overture_ebu-r128_v1.wav');
  expect(second?.fileName).toBe('nightfall-overture_ebu-r128_v1-2.wav');
  for (const delivery of [first, second]) {
    const bytes = readFileSync(join(host.root, 'deliveries', host.jobId, delivery?.fileName as string));
    expect(delivery?.written?.sha256).toBe(createHash('sha256').update(bytes).digest('hex'));
    expect(delivery?.written?.verdict.inside).toBe(true);
    expect(delivery?.written?.readings.integratedLufs).toBeCloseTo(delivery?.predicted.integratedLufs ?? Number.NaN, 3);
    expect(delivery?.written?.readings.truePeakDbtp).toBeCloseTo(delivery?.predicted.truePeakDbtp ?? Number.NaN, 3);
    expect(delivery?.written?.format).toMatchObject({ bitDepth: 24, frames: 8 * RATE, sampleRateHz: RATE });
  }
});

test('what would be clipped is refused before anything is written', async () => {
  const { programmeId } = await host.measured(WAV);
  saveTreatment(host.server, programmeId, { gainDb: 30 });
  await expect(createDelivery(host.server, programmeId, 'ebu-r128').catch(code)).resolves.toBe('would-clip');
  expect(programme().deliveries).toEqual([]);
});

test('a cancelled delivery leaves no file, and can be tried again', async () => {
  const long = tone([{ seconds: 120, levelDbfs: -20 }], RATE);
  const { programmeId } = await host.measured(wavOf([long, long]));
  await createDelivery(host.server, programmeId, 'ebu-r128');
  const { task } = programme().deliveries[0] as NonNullable<ReturnType<typeof programme>['deliveries'][0]>;
  host.server.runner.cancel(task?.taskId as string);
  await host.server.runner.whenIdle();
  expect(programme().deliveries[0]).toMatchObject({ written: null, task: { state: 'cancelled' } });
  expect(host.files().filter((file) => file.startsWith('deliveries'))).toEqual([]);
  steerTask(host.server, task?.taskId as string, 'retry');
  await host.server.runner.whenIdle();
  expect(programme().deliveries[0]?.written).not.toBeNull();
});

test('a source that is damaged on disk fails its task with words, and the server goes on', async () => {
  const { sha256, programmeId } = await host.measured(WAV);
  writeFileSync(join(host.root, 'sources', sha256), 'gone');
  await createDelivery(host.server, programmeId, 'ebu-r128');
  await host.server.runner.whenIdle();
  expect(programme().deliveries[0]?.task).toMatchObject({ state: 'failed', error: { code: 'not-audio' } });
  expect(host.files().filter((file) => file.startsWith('deliveries'))).toEqual([]);
});

test('the trace is cut to the columns that are asked for', async () => {
  const { programmeId } = await host.measured(WAV);
  const bytes = await traceOf(await preparedProgramme(host.server, programmeId, PLAIN), 64);
  const { meta, arrays } = decodeArrays<{ frames: number }>(bytes.buffer as ArrayBuffer);
  expect(meta.frames).toBe(8 * RATE);
  expect(arrays.min0).toHaveLength(64);
  expect(arrays.weightedPower).toHaveLength(80);
  expect(arrays.truePeaks1).toHaveLength(80);
  expect(Math.max(...(arrays.max1 as Float32Array))).toBeCloseTo(10 ** (-18 / 20), 3);
  await expect(preparedProgramme(host.server, 'none', PLAIN).catch(code)).resolves.toBe('not-found');
});

test('one data folder has one server', () => {
  expect(() => new Server(new DataFolder(host.root))).toThrow('Another Opsimeter');
});

test('what the desk is sent of six hours is hardly more than of a song', async () => {
  const rate = 8000;
  const minute = new Float32Array(60 * rate).map((_, n) => 0.1 * Math.sin(n / 7));
  const bytes = interleave([minute], 8);
  const hours = Buffer.concat(Array.from({ length: 6 * 60 }, () => bytes));
  const { programmeId } = await host.measured(
    buildWav({ channels: 1, sampleRateHz: rate, bits: 8, data: hours }),
    'vigil.wav',
  );
  const trace = await traceOf(await preparedProgramme(host.server, programmeId, PLAIN), 1600);
  expect(trace.length).toBeLessThan(1_200_000);
  const { meta, arrays } = decodeArrays<{ binsPerColumn: number; frames: number }>(trace.buffer as ArrayBuffer);
  expect(meta).toMatchObject({ binsPerColumn: 36, frames: 6 * 3600 * rate });
  expect(arrays.truePeaks0).toHaveLength(6000);
  expect(arrays.max0).toHaveLength(1600);
  expect(Math.max(...(arrays.max0 as Float32Array))).toBeGreaterThan(0.09);
});

describe('a limiter', () => {
  /** Soft, with a loud click every second: gain alone is stopped far from its target. */
  const clicks = music.map((x, n) => (n % RATE === 7777 ? 0.98 : x));
  const CLICKS = wavOf([clicks, clicks]);

  test('answers are worked out once for a source, and kept; what is chosen is forecast, written and measured', async () => {
    const { programmeId, sha256 } = await host.measured(CLICKS);
    const answers = await limiterOptions(host.server, programmeId, PLAIN, 'streaming-music');
    expect(answers?.gainOnly.binding).toBe('ceiling');
    expect(answers?.limited?.reduction.greatestDb).toBeLessThanOrEqual(3.005);
    const kept = `analysis/${sha256}.${ENGINE_VERSION}.limiting.own.bin`;
    expect(host.files()).toContain(kept);
    // The same again, by two at once, from what is kept.
    const again = await Promise.all(
      [1, 2].map(() => limiterOptions(host.server, programmeId, PLAIN, 'streaming-music')),
    );
    expect(again).toEqual([answers, answers]);

    const chosen = answers?.limited;
    if (!chosen) throw new Error('there is no such answer');
    const { gainDb, ceilingDbtp } = chosen;
    changeTreatment(host.server, programmeId, { gainDb, limit: { ceilingDbtp } });
    await forecastCurrent(host.server, programmeId);
    const forecast = programme().predicted;
    expect(forecast?.integratedLufs).toBeCloseTo(answers?.limited?.readings.integratedLufs ?? Number.NaN, 6);
    await createDelivery(host.server, programmeId, 'streaming-music');
    await host.server.runner.whenIdle();
    const [delivery] = programme().deliveries;
    expect(delivery?.predicted).toEqual(forecast);
    expect(delivery?.written?.readings.truePeakDbtp).toBeLessThanOrEqual(-1);
    expect(delivery?.written?.readings.integratedLufs).toBeCloseTo(forecast?.integratedLufs ?? Number.NaN, 1);
    expect(delivery?.written?.reduction?.greatestDb).toBeCloseTo(
      answers?.limited?.reduction.greatestDb ?? Number.NaN,
      1,
    );
    expect(host.files().filter((name) => name.startsWith('deliveries/'))).toHaveLength(1);
  });

  test('what lies deeper is looked for when it is asked for', async () => {
    const { programmeId } = await host.measured(CLICKS);
    const peak = programme().measured?.readings.truePeakDbtp ?? Number.NaN;
    const at = (driveDb: number) =>
      limitedReadings(host.server, programmeId, PLAIN, { gainDb: -1 - peak + driveDb, ceilingDbtp: -1 });
    const gentle = await at(1);
    const hard = await at(20);
    expect(gentle.reduction.greatestDb).toBeCloseTo(1, 1);
    expect(hard.reduction.greatestDb).toBeCloseTo(20, 1);
    expect(hard.reduction.shareOfTime).toBeGreaterThan(0.3);
    expect(await at(1)).toEqual(gentle);
  });

  test('a version that is changed forgets what was forecast of it', async () => {
    const { programmeId } = await host.measured(CLICKS);
    changeTreatment(host.server, programmeId, { gainDb: 3, limit: { ceilingDbtp: -1 } });
    await forecastCurrent(host.server, programmeId);
    expect(programme().predicted).not.toBeNull();
    changeTreatment(host.server, programmeId, { gainDb: 4 });
    expect(programme()).toMatchObject({ predicted: null, treatment: { gainDb: 4, limit: { ceilingDbtp: -1 } } });
  });

  test('a programme that is not there, or has no level, is told apart from one that has', async () => {
    await expect(limiterOptions(host.server, 'none', PLAIN, 'ebu-r128').catch(code)).resolves.toBe('not-found');
    const { programmeId } = await host.measured(wavOf([new Float32Array(RATE)]), 'silent.wav');
    expect(await limiterOptions(host.server, programmeId, PLAIN, 'ebu-r128')).toBeNull();
  });
});
