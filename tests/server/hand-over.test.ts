/** The sheet and the specs behind it: rows, sets, predictions, names, and what is decided about files that miss. */
import { existsSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { certificateSchema } from '@/core/delivery/certificate';
import { type DeliveryFormatInput, deliveryFormatSchema } from '@/core/delivery/format';
import type { LevelMode } from '@/core/delivery/row';
import { NO_TAGS } from '@/core/file-formats/tags';
import { SPECS } from '@/core/spec/catalogue';
import { certificateOf } from '@/server/certificates/certificate';
import { acceptDelivery, discardDeliveries, discardDelivery } from '@/server/deliveries/decide';
import { addRow, changeRow, predictionOf, removeRow, rowOf, setNameTemplate, setTags } from '@/server/deliveries/rows';
import { viewSheet } from '@/server/deliveries/sheet';
import { applyTemplate, listTemplates, saveRowsAsTemplate } from '@/server/deliveries/templates';
import { solveAgain, writeRow, writeRows } from '@/server/deliveries/write-row';
import { viewJob } from '@/server/jobs/jobs';
import { createLineUp } from '@/server/line-ups/line-ups';
import { Server } from '@/server/server';
import { copySpec, importSpec, listSpecs, retireSpec, saveSpec, specNamed } from '@/server/specs/specs';
import { saveTreatment } from '@/server/treatments/treatments';
import { code } from '../fixtures/error-code';
import { musicLike } from '../fixtures/material';
import { TestServer } from '../fixtures/server';
import { wavOf } from '../fixtures/wav';

const WAV = wavOf(musicLike().map((samples) => samples.slice(10 * 48_000, 22 * 48_000).map((x) => 0.6 * x)));
const SOLVED: LevelMode = { kind: 'solved', maxReductionDb: 6, marginDb: 0 };
const AS_SET: LevelMode = { kind: 'as-set' };

let host: TestServer;
let programmeId: string;
beforeEach(async () => {
  host = new TestServer();
  ({ programmeId } = await host.measured(WAV, 'Overture.wav'));
});
afterEach(() => host.remove());

const add = (specId: string, format: DeliveryFormatInput = { kind: 'wav' }, levelMode: LevelMode = AS_SET) =>
  addRow(host.server, { programmeId, specId, format: deliveryFormatSchema.parse(format), levelMode });
const sheet = () => viewSheet(host.server, host.jobId);
const written = async (rowId: string) => {
  const id = await writeRow(host.server, rowId);
  await host.server.runner.whenIdle();
  const found = viewJob(host.server, host.jobId).programmes[0]?.deliveries.find((own) => own.id === id);
  if (!found) throw new Error('there is no such delivery');
  return found;
};
const files = () => {
  const folder = join(host.root, 'deliveries', host.jobId);
  return existsSync(folder) ? readdirSync(folder).sort() : [];
};

test('a row is predicted before anything is written, and that holds until something changes', async () => {
  const row = add('ebu-r128', { kind: 'flac' }, SOLVED);
  expect(sheet().rows[0]).toMatchObject({
    id: row.id,
    prediction: null,
    delivery: null,
    formatText: 'FLAC 24-bit · 48 kHz',
  });
  const prediction = await predictionOf(host.server, row);
  expect(prediction.readings.integratedLufs).toBeCloseTo(-23, 1);
  expect(prediction.verdict.inside).toBe(true);
  expect(sheet().rows[0]?.prediction).not.toBeNull();
  saveTreatment(host.server, programmeId, { gainDb: -1 });
  expect(sheet().rows[0]?.prediction).toBeNull();
  expect(files()).toEqual([]);
});

test('what was set differently since is told, written again beside what is there, and both stay', async () => {
  saveTreatment(host.server, programmeId, { gainDb: -6 });
  const row = add('ebu-r128');
  const first = await written(row.id);
  await predictionOf(host.server, rowOf(host.server, row.id));
  expect(sheet().rows[0]).toMatchObject({ isStale: false });
  // So is what the file says of itself.
  setTags(host.server, programmeId, { ...NO_TAGS, artist: 'Somebody' });
  await predictionOf(host.server, rowOf(host.server, row.id));
  expect(sheet().rows[0]).toMatchObject({ isStale: true });
  setTags(host.server, programmeId, NO_TAGS);
  await predictionOf(host.server, rowOf(host.server, row.id));
  expect(sheet().rows[0]).toMatchObject({ isStale: false });
  saveTreatment(host.server, programmeId, { gainDb: -7 });
  await predictionOf(host.server, rowOf(host.server, row.id));
  expect(sheet().rows[0]).toMatchObject({ isStale: true });
  const second = await written(row.id);
  expect([first.fileName, second.fileName]).toEqual(['overture_ebu-r128_v1.wav', 'overture_ebu-r128_v2.wav']);
  expect(sheet().others.map(({ id }) => id)).toEqual([first.id]);
  expect(files()).toEqual([first.fileName, second.fileName]);
});

test('names follow the job’s template, and are numbered on where they are taken', async () => {
  saveTreatment(host.server, programmeId, { gainDb: -6 });
  setNameTemplate(host.server, host.jobId, 'Season/{job} {track} {title} {rate} {format}');
  const names = [await written(add('ebu-r128').id), await written(add('ebu-r128').id)].map(({ fileName }) => fileName);
  expect(names).toEqual(['test-job-1-overture-48k-24bit.wav', 'test-job-1-overture-48k-24bit-2.wav']);
});

test('asked twice, a row is written once', async () => {
  const row = add('ebu-r128', { kind: 'wav' }, SOLVED);
  const [a, b] = [await writeRow(host.server, row.id), await writeRow(host.server, row.id)];
  expect(a).toBe(b);
  await host.server.runner.whenIdle();
  expect(files()).toHaveLength(1);
});

test('many rows are written at once, each once, and what keeps one from it is told of that one', async () => {
  saveTreatment(host.server, programmeId, { gainDb: 20 });
  const [clips, known, unknown] = [
    add('ebu-r128'),
    add('ebu-r128', { kind: 'flac' }, SOLVED),
    add('ebu-r128', { kind: 'wav' }, SOLVED),
  ];
  const impossible = add('ebu-r128', { kind: 'opus', sampleRateHz: 44_100 });
  for (const row of [clips, known]) await predictionOf(host.server, row);
  const ids = [clips, known, unknown, impossible].map(({ id }) => id);
  const answers = await Promise.all([writeRows(host.server, ids), writeRows(host.server, [...ids, 'gone'])]);
  for (const failures of answers) {
    const told = new Map(failures.map(({ rowId, happened }) => [rowId, happened]));
    expect(told.get(clips.id)).toMatch(/clip/);
    expect(told.get(impossible.id)).toMatch(/Opus/);
    expect(told.has(known.id) || told.has(unknown.id)).toBe(false);
  }
  expect(answers.map((failures) => failures.length)).toEqual([2, 3]);
  await host.server.runner.whenIdle();
  expect(files()).toHaveLength(2);
  expect(sheet().rows.map(({ delivery }) => delivery?.written?.verdict.inside)).toEqual([
    undefined,
    true,
    true,
    undefined,
  ]);
});

test('misses are thrown away all at once, and what meets its spec stays', async () => {
  saveTreatment(host.server, programmeId, { gainDb: 0 });
  const misses = [await written(add('ebu-r128').id), await written(add('ebu-r128', { kind: 'flac' }).id)];
  expect(files()).toHaveLength(2);
  const ids = misses.map(({ id }) => id);
  await Promise.all([discardDeliveries(host.server, ids), discardDeliveries(host.server, ids)]);
  expect(files()).toEqual([]);
  expect(sheet().others.map(({ isDiscarded }) => isDiscarded)).toEqual([true, true]);
  const inside = await written(add('ebu-r128', { kind: 'wav' }, SOLVED).id);
  await discardDeliveries(host.server, [inside.id, ...ids]);
  expect(files()).toHaveLength(1);
});

test('a file that misses is accepted with a reason, or thrown away, or solved again', async () => {
  saveTreatment(host.server, programmeId, { gainDb: 0 });
  const missed = await written(add('ebu-r128').id);
  expect(missed.written?.verdict.inside).toBe(false);
  acceptDelivery(host.server, missed.id, 'The client has heard it');
  expect(sheet().rows[0]?.delivery).toMatchObject({ acceptedReason: 'The client has heard it' });

  await discardDelivery(host.server, missed.id);
  expect(files()).toEqual([]);
  expect(sheet().rows[0]?.delivery).toBeNull();
  expect(sheet().others).toMatchObject([{ id: missed.id, isDiscarded: true }]);
  expect(await code(() => acceptDelivery(host.server, missed.id, 'too late'))).toBe('bad-request');

  const again = await written(sheet().rows[0]?.id ?? '');
  await solveAgain(host.server, again.id);
  await host.server.runner.whenIdle();
  const [row] = sheet().rows;
  expect(row?.levelMode).toEqual({ kind: 'solved', maxReductionDb: 0, marginDb: 0 });
  expect(row?.delivery?.written?.verdict.inside).toBe(true);
  expect(await code(() => solveAgain(host.server, row?.delivery?.id ?? ''))).toBe('bad-request');
});

test('a limiter’s ceiling goes down where coding lifts peaks above it, and nothing else of what was set', async () => {
  saveTreatment(host.server, programmeId, { gainDb: 7, limit: { ceilingDbtp: -1 } });
  const row = add('streaming-music', { kind: 'mp3', bitRateKbps: 128 });
  const delivery = await written(row.id);
  expect(delivery.passes.length).toBeGreaterThan(1);
  expect(delivery.written?.readings.truePeakDbtp).toBeLessThanOrEqual(-1);
  expect(delivery.treatment.gainDb).toBe(7);
});

test('a premaster is checked for being one', async () => {
  saveTreatment(host.server, programmeId, {
    gainDb: -6,
    limit: { ceilingDbtp: -6.5 },
    fadeOut: { frames: 4800, shape: 'linear' },
  });
  const { written: file } = await written(add('premaster', { kind: 'wav', sampleRateHz: 44_100, dither: 'tpdf' }).id);
  const missed = file?.verdict.items.filter(({ inside }) => !inside).map(({ name }) => name);
  expect(missed).toEqual(['Limiter', 'Dither', 'Rate of the source', 'Tail']);
  saveTreatment(host.server, programmeId, { gainDb: 0 });
  const { written: good } = await written(
    add('premaster', { kind: 'wav' }, { kind: 'solved', maxReductionDb: 0, marginDb: 0 }).id,
  );
  expect(good?.verdict).toMatchObject({ inside: true });
});

test('sets are kept from a programme’s rows and added to others, each row once', async () => {
  const other = await host.measured(wavOf([new Float32Array(96_000).fill(0.1)]), 'other.wav');
  add('ebu-r128');
  add('podcast-stereo', { kind: 'mp3' }, SOLVED);
  saveRowsAsTemplate(host.server, 'Season', programmeId);
  saveRowsAsTemplate(host.server, 'Season', programmeId);
  const own = listTemplates(host.server).filter(({ isBuiltIn }) => !isBuiltIn);
  expect(own).toMatchObject([{ name: 'Season', treatment: null, nameTemplate: null }]);
  expect(applyTemplate(host.server, own[0]?.id ?? '', [programmeId, other.programmeId])).toBe(2);
  expect(sheet().rows.map((row) => row.programmeId)).toEqual([
    programmeId,
    programmeId,
    other.programmeId,
    other.programmeId,
  ]);
  expect(await code(() => saveRowsAsTemplate(host.server, 'Nothing', 'nobody'))).toBe('bad-request');
});

test('what can not be written says what can, and a row can be changed to it', async () => {
  const row = add('ebu-r128', { kind: 'opus', sampleRateHz: 44_100 });
  expect(await code(() => writeRow(host.server, row.id))).toBe('format-impossible');
  const problem = sheet().rows[0]?.problem;
  expect(problem?.text).toMatch(/Opus is not written at 44.1 kHz/);
  if (problem) changeRow(host.server, row.id, { format: problem.nearest });
  expect(sheet().rows[0]?.problem).toBeNull();
  removeRow(host.server, row.id);
  expect(sheet().rows).toEqual([]);
  expect(await code(() => rowOf(host.server, row.id))).toBe('not-found');
});

test('a folder that can not be written to is said in words, and nothing is half there', async () => {
  saveTreatment(host.server, programmeId, { gainDb: -6 });
  host.server.folder.deliveryPart = () => join(host.root, 'nowhere', 'a file');
  for (const kind of ['wav', 'mp3'] as const) {
    const { task, written: file } = await written(add('ebu-r128', { kind }).id);
    expect(file).toBeNull();
    expect(task?.error?.happened).toMatch(/could not be written \(its folder does not exist\)\.$/);
    expect(task?.error?.safe).toMatch(/No half-written file was left behind/);
  }
  expect(files()).toEqual([]);
});

describe('specs', () => {
  test('the catalogue is there, and stays as it is', async () => {
    expect(listSpecs(host.server).map(({ spec }) => spec.id)).toEqual(SPECS.map(({ id }) => id));
    expect(await code(() => saveSpec(host.server, { ...specNamed(host.server, 'ebu-r128'), name: 'Mine' }))).toBe(
      'built-in-spec',
    );
    expect(await code(() => retireSpec(host.server, 'ebu-r128'))).toBe('built-in-spec');
    await host.server.close();
    host.server = new Server(host.server.folder);
    expect(listSpecs(host.server).every(({ versions }) => versions.length === 1)).toBe(true);
  });

  test('a copy is changed in versions, and what was written under one says which', async () => {
    saveTreatment(host.server, programmeId, { gainDb: -6 });
    const copy = copySpec(host.server, specNamed(host.server, 'ebu-r128'), 'Night station');
    expect(copy).toMatchObject({ id: 'night-station', version: 1, basis: { kind: 'own' } });
    const row = add(copy.id);
    const first = await written(row.id);
    const peak = { measure: 'true' as const, ceiling: -3, allowanceDb: 0 };
    expect(saveSpec(host.server, { ...copy, peak }).version).toBe(2);
    expect(saveSpec(host.server, { ...copy, peak }).version).toBe(2);
    const second = await written(row.id);
    expect([first, second].map(({ spec }) => [spec.version, spec.peak.ceiling])).toEqual([
      [1, -1],
      [2, -3],
    ]);
    retireSpec(host.server, copy.id);
    expect(await code(() => specNamed(host.server, copy.id))).toBe('unknown-spec');
    expect(viewJob(host.server, host.jobId).programmes[0]?.deliveries).toHaveLength(2);
  });

  test('brought in, it comes under its own id where that is free, and beside the built-in ones where it is not', () => {
    const built = specNamed(host.server, 'ebu-r128');
    const own = importSpec(
      host.server,
      JSON.parse(JSON.stringify({ ...built, id: 'elsewhere', name: 'From elsewhere' })),
    );
    expect(own).toMatchObject({ id: 'elsewhere', version: 1, basis: { kind: 'own' } });
    expect(importSpec(host.server, JSON.parse(JSON.stringify(built)))).toMatchObject({ name: 'EBU R 128, brought in' });
    expect(specNamed(host.server, 'ebu-r128')).toEqual(built);
    expect(() => importSpec(host.server, { name: 'nothing' })).toThrow();
  });
});

test('a certificate names the line-ups that its programme is in', async () => {
  const { id } = await written(add('ebu-r128', { kind: 'wav' }, SOLVED).id);
  expect(certificateOf(host.server, id).partOf).toEqual([]);
  const other = await host.measured(wavOf(musicLike().map((samples) => samples.slice(0, 4 * 48_000))), 'Finale.wav');
  createLineUp(host.server, host.jobId, {
    kind: 'record',
    name: 'An evening',
    members: [{ programmeId: other.programmeId }, { programmeId }],
  });
  const certificate = certificateOf(host.server, id);
  expect(certificate.partOf).toEqual([{ name: 'An evening', kind: 'record', place: 2, of: 2 }]);
  // One that was issued before line-ups were named is still read.
  const { partOf: _, ...older } = certificate;
  expect(certificateSchema.parse(JSON.parse(JSON.stringify(older))).partOf).toEqual([]);
});
