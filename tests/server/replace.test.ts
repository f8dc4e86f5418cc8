/** A new version takes a programme's place: everything that is set stays, and what was written before stays what it was. */
import { execFileSync } from 'node:child_process';
import { deliveryFormatSchema } from '@/core/delivery/format';
import { certificateOf } from '@/server/certificates/certificate';
import { addRow, predictionOf, rowOf } from '@/server/deliveries/rows';
import { viewSheet } from '@/server/deliveries/sheet';
import { writeRow } from '@/server/deliveries/write-row';
import { exportJob } from '@/server/jobs/export-job';
import { receiveJob } from '@/server/jobs/import-job';
import { createJob, viewJob } from '@/server/jobs/jobs';
import { addMarker } from '@/server/jobs/markers';
import { viewProgramme } from '@/server/jobs/programme-view';
import { changeProgramme } from '@/server/jobs/programmes';
import { likelyVersions, previewReplacement, replaceSource, undoReplacement } from '@/server/jobs/replace';
import { createLineUp, lineUpOf } from '@/server/line-ups/line-ups';
import { takeIn } from '@/server/take-in/take-in';
import { currentTreatment, saveTreatment } from '@/server/treatments/treatments';
import { code } from '../fixtures/error-code';
import { musicLike } from '../fixtures/material';
import { TestServer } from '../fixtures/server';
import { gathered } from '../fixtures/unzipped';
import { wavOf } from '../fixtures/wav';

const RATE = 48_000;
const piece = (seconds: number, gain: number) =>
  wavOf(musicLike().map((samples) => samples.slice(14 * RATE, (14 + seconds) * RATE).map((x) => gain * x)));

let host: TestServer;
let songId: string;
let newId: string;
let rowId: string;
beforeEach(async () => {
  host = new TestServer();
  songId = (await host.measured(piece(10, 0.5), 'Dawn_v1.wav')).programmeId;
  newId = (await host.measured(piece(7, 0.7), 'Dawn_v2.wav')).programmeId;
  changeProgramme(host.server, songId, { title: 'Dawn' });
  saveTreatment(host.server, songId, {
    gainDb: -2,
    trim: { startFrame: RATE, endFrame: 9 * RATE },
    fadeOut: { frames: RATE, shape: 's-curve' },
  });
  addMarker(host.server, songId, { startFrame: 2 * RATE, endFrame: null, name: 'verse' });
  addMarker(host.server, songId, { startFrame: 6 * RATE, endFrame: 8 * RATE, name: 'bridge' });
  addMarker(host.server, songId, { startFrame: 9 * RATE, endFrame: null, name: 'end' });
  const row = addRow(host.server, {
    programmeId: songId,
    specId: 'ebu-r128',
    format: deliveryFormatSchema.parse({ kind: 'wav' }),
    levelMode: { kind: 'as-set' },
  });
  rowId = row.id;
});
afterEach(() => host.remove());

const write = async () => {
  const id = await writeRow(host.server, rowId);
  await host.server.runner.whenIdle();
  return id;
};
const row = () => viewSheet(host.server, host.jobId).rows[0];
const song = () => viewProgramme(host.server, songId);
const markers = () => song().markers.map(({ name, startFrame, endFrame }) => [name, startFrame, endFrame]);

test('what is different, and what does not fit, is told before anything is changed', () => {
  const { before, after, misfits } = previewReplacement(host.server, songId, newId);
  expect([before.fileName, after.fileName]).toEqual(['Dawn_v1.wav', 'Dawn_v2.wav']);
  expect([before.format.frames, after.format.frames]).toEqual([10 * RATE, 7 * RATE]);
  // 0.5 to 0.7 is 2.9 dB.
  expect((after.levels.truePeakDbtp ?? 0) - (before.levels.truePeakDbtp ?? 0)).toBeGreaterThan(2);
  expect(misfits).toEqual([
    { text: 'Trim', misfit: 'cut' },
    { text: 'Marker “bridge”', misfit: 'cut' },
    { text: 'Marker “end”', misfit: 'removed' },
  ]);
  expect(song().fileName).toBe('Dawn_v1.wav');
  expect(likelyVersions(host.server, host.jobId, songId).map(({ id }) => id)).toEqual([newId]);
});

test('everything that is set stays with the new version, and can be taken back', async () => {
  const lineUpId = createLineUp(host.server, host.jobId, {
    kind: 'record',
    name: 'Days',
    members: [{ programmeId: songId }],
  });
  const before = song();
  const settings = replaceSource(host.server, songId, newId);
  expect(song()).toMatchObject({ title: 'Dawn', fileName: 'Dawn_v2.wav' });
  expect(currentTreatment(host.server, songId)?.treatment).toMatchObject({
    gainDb: -2,
    trim: { startFrame: RATE, endFrame: 7 * RATE },
    fadeOut: { frames: RATE },
  });
  expect(markers()).toEqual([
    ['verse', 2 * RATE, null],
    ['bridge', 6 * RATE, 7 * RATE],
  ]);
  expect(lineUpOf(host.server, lineUpId).members).toEqual([{ programmeId: songId, gapSeconds: 0 }]);
  const { programmes, removed } = viewJob(host.server, host.jobId);
  expect(programmes.map(({ id }) => id)).toEqual([songId]);
  expect(removed).toEqual([expect.objectContaining({ id: newId, fileName: 'Dawn_v1.wav' })]);

  undoReplacement(host.server, songId, newId, settings);
  expect(song().fileName).toBe('Dawn_v1.wav');
  expect(markers()).toHaveLength(3);
  expect(currentTreatment(host.server, songId)?.treatment).toEqual(before.treatment);
  expect(
    viewJob(host.server, host.jobId)
      .programmes.map(({ fileName }) => fileName)
      .sort(),
  ).toEqual(['Dawn_v1.wav', 'Dawn_v2.wav']);
});

test('what was written of the old version is out of date, and its certificate names the old file for good', async () => {
  const deliveryId = await write();
  const certified = certificateOf(host.server, deliveryId);
  expect(row()).toMatchObject({ isStale: false });
  replaceSource(host.server, songId, newId);
  expect(row()).toMatchObject({ isStale: true, prediction: null });
  expect({ ...certificateOf(host.server, deliveryId), issuedAt: '' }).toEqual({ ...certified, issuedAt: '' });
  expect(certified.source.fileName).toBe('Dawn_v1.wav');

  await predictionOf(host.server, rowOf(host.server, rowId));
  const again = await write();
  expect(again).not.toBe(deliveryId);
  expect(certificateOf(host.server, again).source.fileName).toBe('Dawn_v2.wav');
  expect(row()).toMatchObject({ isStale: false });
  // By SoX: the new file is as long as the trimmed new version.
  const path = `${host.root}/deliveries/${host.jobId}/${row()?.delivery?.fileName}`;
  expect(Number(execFileSync('soxi', ['-s', path], { encoding: 'utf8' }))).toBe(6 * RATE);

  // Both are told apart in the job's ZIP too.
  const other = new TestServer();
  try {
    const zip = await gathered((await exportJob(host.server, host.jobId)).body);
    const jobId = await receiveJob(other.server, 'job.zip', [zip] as never);
    const [own] = viewJob(other.server, jobId).programmes;
    const names = own?.deliveries.map(({ id }) => certificateOf(other.server, id).source.fileName);
    expect(names?.sort()).toEqual(['Dawn_v1.wav', 'Dawn_v2.wav']);
  } finally {
    await other.remove();
  }
});

test('a version at another rate keeps its times, and what was written while it came is of one or the other', async () => {
  const resampled = wavOf(
    musicLike().map((samples) => Float32Array.from({ length: 20 * RATE }, (_, n) => 0.4 * (samples[n >> 1] ?? 0))),
    { sampleRateHz: 2 * RATE },
  );
  const { programmeId: fastId } = await host.measured(resampled, 'Dawn_v3.wav');
  const id = await writeRow(host.server, rowId);
  replaceSource(host.server, songId, fastId);
  await host.server.runner.whenIdle();
  expect(certificateOf(host.server, id).source.fileName).toBe('Dawn_v1.wav');
  expect(currentTreatment(host.server, songId)?.treatment).toMatchObject({
    trim: { startFrame: 2 * RATE, endFrame: 18 * RATE },
    fadeOut: { frames: 2 * RATE },
  });
  expect(markers()[0]).toEqual(['verse', 4 * RATE, null]);
});

test('nothing is replaced by itself, by what is not measured, or by a programme of another job', async () => {
  expect(await code(() => replaceSource(host.server, songId, songId))).toBe('bad-request');
  expect(await code(() => replaceSource(host.server, songId, 'nobody'))).toBe('not-found');
  const otherJob = createJob(host.server, 'Another');
  const far = await takeIn(host.server, { jobId: otherJob, fileName: 'far.wav', body: [piece(3, 0.1)] as never });
  expect(await code(() => replaceSource(host.server, songId, far.programmeId))).toBe('not-measured');
  await host.server.runner.whenIdle();
  expect(await code(() => replaceSource(host.server, songId, far.programmeId))).toBe('bad-request');
  expect(song().fileName).toBe('Dawn_v1.wav');
});
