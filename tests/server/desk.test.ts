/** What stands behind the desk: versions and edits, programmes as they are prepared, their frames, and what is kept of them. */
import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { AppError } from '@/core/errors/app-error';
import { gainOnly, preparationOf, treatmentSchema } from '@/core/treatment/treatment';
import { decodeArrays } from '@/formats/array-bundle';
import { viewJob } from '@/server/jobs/jobs';
import { addMarker, removeMarker, renameMarker } from '@/server/jobs/markers';
import { framesOf, MOST_FRAMES } from '@/server/measure/frames';
import { forecastCurrent, preparedProgramme, reductionStretch } from '@/server/measure/limiting';
import { whileHeld } from '@/server/measure/prepared';
import { waveformTile } from '@/server/measure/trace';
import {
  changeTreatment,
  markHeard,
  nameVersion,
  saveTreatment,
  stepTreatment,
  treatmentStateOf,
} from '@/server/treatments/treatments';
import { measureFile } from '@/workers/node/measure-file';
import { createDelivery } from '../fixtures/delivering';
import { TestServer } from '../fixtures/server';
import { tone } from '../fixtures/signals';
import { wavOf } from '../fixtures/wav';

const RATE = 48_000;
const soft = tone([{ seconds: 8, levelDbfs: -24 }], RATE, 440);
/** Silence at both ends, and louder in its second half. */
const shaped = soft.map((x, n) => (n < RATE || n >= 7 * RATE ? 0 : x * (n > 4 * RATE ? 4 : 1)));
const WAV = wavOf([shaped, shaped.map((x) => 0.5 * x)]);

let host: TestServer;
let programmeId: string;
beforeEach(async () => {
  host = new TestServer();
  ({ programmeId } = await host.measured(WAV, 'Comet.wav'));
});
afterEach(() => host.remove());

const programme = () => viewJob(host.server, host.jobId).programmes[0] as NonNullable<ReturnType<typeof found>>;
const found = () => viewJob(host.server, host.jobId).programmes[0];
const code = (thrown: unknown) => (thrown instanceof AppError ? thrown.code : thrown);
const gainNow = () => treatmentStateOf(host.server, programmeId).treatment.gainDb;
const prepared = (input: object) =>
  preparedProgramme(host.server, programmeId, preparationOf(treatmentSchema.parse({ gainDb: 0, ...input })));

describe('versions', () => {
  test.each([
    ['heard', () => markHeard(host.server, programmeId, 1)],
    ['named', () => nameVersion(host.server, programmeId, 1, 'For radio')],
  ])('one that was %s stays: a change makes the next, and going back finds it again', (_, settle) => {
    saveTreatment(host.server, programmeId, { gainDb: 1 });
    settle();
    expect(saveTreatment(host.server, programmeId, { gainDb: 2 })).toBe(2);
    expect(saveTreatment(host.server, programmeId, { gainDb: 3 })).toBe(2);
    expect(saveTreatment(host.server, programmeId, { gainDb: 1 })).toBe(1);
    // What nobody has heard is not kept.
    expect(programme().versions.map(({ version }) => version)).toEqual([1]);
    expect(programme()).toMatchObject({ version: 1, treatment: { gainDb: 1 } });
  });

  test('every edit is undone and done again, also by another process; a new one ends what could be done again', async () => {
    for (const gainDb of [1, 2, 3]) saveTreatment(host.server, programmeId, { gainDb });
    expect(treatmentStateOf(host.server, programmeId)).toMatchObject({ undoable: 3, redoable: 0 });
    expect(stepTreatment(host.server, programmeId, 'undo')).toMatchObject({ treatment: { gainDb: 2 }, redoable: 1 });
    stepTreatment(host.server, programmeId, 'undo');
    stepTreatment(host.server, programmeId, 'undo');
    expect(stepTreatment(host.server, programmeId, 'undo')).toMatchObject({ treatment: gainOnly(0), undoable: 0 });
    expect(stepTreatment(host.server, programmeId, 'redo').treatment.gainDb).toBe(1);
    saveTreatment(host.server, programmeId, { gainDb: 7 });
    expect(stepTreatment(host.server, programmeId, 'redo')).toMatchObject({ treatment: { gainDb: 7 }, undoable: 2 });
    await host.server.close();
    const { Server } = await import('@/server/server');
    const { DataFolder } = await import('@/server/storage/data-folder');
    host.server = new Server(new DataFolder(host.root));
    stepTreatment(host.server, programmeId, 'undo');
    expect(gainNow()).toBe(1);
  });

  test('undoing what was heard leaves it as it was', () => {
    saveTreatment(host.server, programmeId, { gainDb: 1 });
    markHeard(host.server, programmeId, 1);
    changeTreatment(host.server, programmeId, { outputGainDb: -1 });
    stepTreatment(host.server, programmeId, 'undo');
    expect(programme()).toMatchObject({ version: 1, treatment: { gainDb: 1, outputGainDb: 0 } });
    stepTreatment(host.server, programmeId, 'undo');
    expect(programme()).toMatchObject({ version: 2, treatment: gainOnly(0) });
    stepTreatment(host.server, programmeId, 'redo');
    expect(programme()).toMatchObject({ version: 1, versions: [{ version: 1, isHeard: true }] });
  });

  test('two hundred edits are kept, not more', () => {
    for (let i = 1; i <= 230; i++) saveTreatment(host.server, programmeId, { gainDb: i / 10 });
    expect(treatmentStateOf(host.server, programmeId)).toMatchObject({ undoable: 199, redoable: 0 });
  });

  test('a version that is not there can not be named', () => {
    expect(() => nameVersion(host.server, programmeId, 9, 'none')).toThrow('does not exist');
  });
});

describe('a programme as it is prepared', () => {
  test('is measured once, as the file that it would be, and read from anywhere', async () => {
    const { readings, format, analysisPath } = await prepared({ trim: { startFrame: RATE, endFrame: 7 * RATE } });
    expect(format).toMatchObject({ frames: 6 * RATE, channels: 2 });
    expect(readings.integratedLufs).not.toBeNull();
    const before = readFileSync(analysisPath);
    const again = await Promise.all([1, 2, 3].map(() => prepared({ trim: { startFrame: RATE, endFrame: 7 * RATE } })));
    expect(again.map(({ readings: own }) => own.integratedLufs)).toEqual(Array(3).fill(readings.integratedLufs));
    expect(readFileSync(analysisPath).equals(before)).toBe(true);
    const bytes = await framesOf(again[0] as NonNullable<(typeof again)[0]>, { startFrame: 3 * RATE + 5, frames: 100 });
    const { arrays } = decodeArrays(bytes.buffer as ArrayBuffer);
    const written = shaped.slice(4 * RATE + 5, 4 * RATE + 105);
    (arrays.channel0 as Float32Array).forEach((sample, n) => {
      expect(sample).toBeCloseTo(written[n] ?? Number.NaN, 6);
    });
  });

  test('in mono, resampled and with room around it, it is what is then delivered', async () => {
    const steps = {
      resampleHz: 44_100,
      mix: 'mono-6',
      removeDc: true,
      trim: { startFrame: 1000, endFrame: 300_000 },
      tail: { frames: 22_050, kind: 'silence' },
    } as const;
    changeTreatment(host.server, programmeId, { gainDb: 3, ...steps });
    await forecastCurrent(host.server, programmeId);
    const predicted = programme().predicted;
    await createDelivery(host.server, programmeId, 'ebu-r128');
    await host.server.runner.whenIdle();
    const [delivery] = programme().deliveries;
    expect(delivery?.written?.format).toMatchObject({ channels: 1, sampleRateHz: 44_100 });
    expect(delivery?.predicted).toEqual(predicted);
    expect(delivery?.written?.readings.integratedLufs).toBeCloseTo(predicted?.integratedLufs ?? Number.NaN, 3);
    expect(delivery?.written?.readings.truePeakDbtp).toBeCloseTo(predicted?.truePeakDbtp ?? Number.NaN, 3);
    expect(delivery?.written?.readings.loudnessRangeLu).toBeCloseTo(predicted?.loudnessRangeLu ?? Number.NaN, 3);
  });

  test('of a source only what was asked for last is kept', async () => {
    for (let i = 1; i <= 15; i++) await prepared({ trim: { startFrame: i * 100, endFrame: null } });
    const names = readdirSync(join(host.root, 'prepared'));
    expect(names.filter((name) => name.endsWith('.json'))).toHaveLength(12);
    expect(names.filter((name) => name.endsWith('.bin'))).toHaveLength(12);
    const last = await prepared({ trim: { startFrame: 1500, endFrame: null } });
    expect(existsSync(last.analysisPath)).toBe(true);
  });

  test('what a render reads stays, however much is prepared meanwhile', async () => {
    const read = await prepared({ trim: { startFrame: 50, endFrame: null } });
    await whileHeld(read, async () => {
      for (let i = 1; i <= 15; i++) await prepared({ trim: { startFrame: 5000 + i * 100, endFrame: null } });
      expect(existsSync(read.analysisPath)).toBe(true);
    });
    for (let i = 1; i <= 15; i++) await prepared({ trim: { startFrame: 7000 + i * 100, endFrame: null } });
    expect(existsSync(read.analysisPath)).toBe(false);
  });

  test('frames end where the programme ends, and no more are read than a page may hold', async () => {
    const plain = await prepared({});
    const read = async (startFrame: number, frames: number) =>
      decodeArrays((await framesOf(plain, { startFrame, frames })).buffer as ArrayBuffer).arrays.channel1?.length;
    expect(await read(8 * RATE - 10, 100)).toBe(10);
    expect(await read(9 * RATE, 100)).toBe(0);
    expect(await read(0, 10 * MOST_FRAMES)).toBe(8 * RATE);
  });

  test('of its waveform, tiles are what lies there', async () => {
    const bytes = await waveformTile(await prepared({}), { level: 0, firstBucket: 700, buckets: 2048 });
    const { arrays } = decodeArrays(bytes.buffer as ArrayBuffer);
    expect(arrays.max0).toHaveLength(Math.ceil((8 * RATE) / 256) - 700);
    const bucket = shaped.slice(710 * 256, 711 * 256);
    expect(arrays.max0?.[10]).toBeCloseTo(Math.max(...bucket), 3);
    expect(arrays.min0?.[10]).toBeCloseTo(Math.min(...bucket), 3);
  });

  test('what is not measured can not be prepared', async () => {
    await expect(preparedProgramme(host.server, 'none', preparationOf(gainOnly(0))).catch(code)).resolves.toBe(
      'not-found',
    );
  });
});

test('a stretch of the gain reduction curve is the same whichever stretch is asked for, and none without a limiter', async () => {
  const treatment = treatmentSchema.parse({ gainDb: 14, limit: { ceilingDbtp: -6 } });
  const whole = await reductionStretch(host.server, programmeId, treatment, { startFrame: 0, frames: 8 * RATE });
  const part = await reductionStretch(host.server, programmeId, treatment, { startFrame: 200_003, frames: 10_000 });
  if (!whole || !part) throw new Error('there is no gain reduction');
  const [first, node] = [whole.reductions[0] as Float32Array, part.startFrame / part.nodeFrames];
  expect(Math.max(...first)).toBeGreaterThan(1);
  expect(part.startFrame).toBeLessThanOrEqual(200_003);
  (part.reductions[0] as Float32Array).forEach((reduction, k) => {
    expect(reduction).toBeCloseTo(first[node + k] ?? Number.NaN, 5);
  });
  expect(await reductionStretch(host.server, programmeId, gainOnly(3), { startFrame: 0, frames: 10 })).toBeNull();
});

test('a span is handed over by itself, and the programme stays as it was', async () => {
  saveTreatment(host.server, programmeId, { gainDb: 2 });
  const trim = { startFrame: 2 * RATE, endFrame: 5 * RATE };
  await createDelivery(host.server, programmeId, 'ebu-r128', trim);
  await host.server.runner.whenIdle();
  const { deliveries, version, treatment } = programme();
  expect({ version, gainDb: treatment.gainDb, trim: treatment.trim }).toEqual({ version: 1, gainDb: 2, trim: null });
  expect(deliveries[0]).toMatchObject({ treatmentVersion: 2, treatment: { gainDb: 2, trim } });
  const path = join(host.root, 'deliveries', host.jobId, deliveries[0]?.fileName as string);
  const { report } = await measureFile(path);
  expect(report.format.frames).toBe(3 * RATE);
  expect(deliveries[0]?.predicted.integratedLufs).toBeCloseTo(report.readings.integratedLufs ?? Number.NaN, 3);
});

test('markers are kept in order of time, renamed and let go of', () => {
  const span = addMarker(host.server, programmeId, { startFrame: 5000, endFrame: 9000, name: 'Span 1' });
  const place = addMarker(host.server, programmeId, { startFrame: 100, endFrame: null, name: 'Marker 2' });
  renameMarker(host.server, span, 'Chorus');
  expect(programme().markers).toEqual([
    { id: place, startFrame: 100, endFrame: null, name: 'Marker 2' },
    { id: span, startFrame: 5000, endFrame: 9000, name: 'Chorus' },
  ]);
  removeMarker(host.server, place);
  removeMarker(host.server, place);
  expect(programme().markers).toHaveLength(1);
  expect(() => renameMarker(host.server, place, 'gone')).toThrow('does not exist');
  expect(() => addMarker(host.server, 'none', { startFrame: 0, endFrame: null, name: '' })).toThrow('does not exist');
});
