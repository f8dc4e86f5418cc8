/** Programmes that belong together: kept, changed, read as a whole, balanced, and taken along in a job's ZIP. */
import { createReadStream, createWriteStream } from 'node:fs';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { BALANCES } from '@/core/lineup/line-up';
import { specById } from '@/core/spec/catalogue';
import { exportJob } from '@/server/jobs/export-job';
import { receiveJob } from '@/server/jobs/import-job';
import { chooseSpec, createJob, viewJob } from '@/server/jobs/jobs';
import { groupProgrammes, removeProgramme } from '@/server/jobs/programmes';
import { forecastBalances, setBalance } from '@/server/line-ups/balance';
import { readLineUp } from '@/server/line-ups/line-up-reading';
import { changeLineUp, createLineUp, lineUpOf, listLineUps, removeLineUp } from '@/server/line-ups/line-ups';
import { lineUpChosen, viewLineUps } from '@/server/line-ups/proposals';
import { copySpec, saveSpec, specNamed } from '@/server/specs/specs';
import { takeIn } from '@/server/take-in/take-in';
import { changeTreatment, currentTreatment } from '@/server/treatments/treatments';
import { code } from '../fixtures/error-code';
import { musicLike } from '../fixtures/material';
import { TestServer } from '../fixtures/server';
import { measure } from '../fixtures/signals';
import { wavOf } from '../fixtures/wav';

const RATE = 48_000;
const GAINS = [0.5, 0.25, 0.1];
const pieces = GAINS.map((gain, i) =>
  musicLike().map((samples) => samples.slice(i * 8 * RATE, (i * 8 + 12) * RATE).map((x) => gain * x)),
);

// A click stops the gain of the softest.
for (const samples of pieces[2] as Float32Array[]) samples[100_000] = 0.12;

let host: TestServer;
let ids: string[];
beforeAll(async () => {
  host = new TestServer();
  ids = [];
  for (const [i, piece] of pieces.entries())
    ids.push((await host.measured(wavOf(piece), `piece ${i + 1}.wav`)).programmeId);
});
afterAll(() => host.remove());
afterEach(() => {
  for (const { id } of listLineUps(host.server, host.jobId)) removeLineUp(host.server, id);
  for (const id of ids) changeTreatment(host.server, id, { gainDb: 0, limit: null });
});

const record = (gapSeconds = 0) =>
  createLineUp(host.server, host.jobId, {
    kind: 'record',
    name: 'Record',
    members: ids.map((programmeId) => ({ programmeId, gapSeconds })),
  });
const gainOf = (id: string) => currentTreatment(host.server, id)?.treatment.gainDb ?? 0;
/** Samples of the pieces with their gains, one after the other, and silence between them. */
function joinedSamples(gains: readonly number[], gapSeconds: number): Float32Array[] {
  return [0, 1].map((c) => {
    const gap = new Array<number>(gapSeconds * RATE).fill(0);
    return Float32Array.from(
      pieces.flatMap((piece, i) => [
        ...(i === 0 ? [] : gap),
        ...(piece[c] as Float32Array).map((x) => x * 10 ** ((gains[i] as number) / 20)),
      ]),
    );
  });
}

test('a line-up is kept in its order, changed in part, taken away and brought back', () => {
  const id = record(2);
  expect(lineUpOf(host.server, id)).toMatchObject({
    kind: 'record',
    name: 'Record',
    specId: null,
    members: ids.map((programmeId) => ({ programmeId, gapSeconds: 2 })),
  });
  changeLineUp(host.server, id, { name: 'Other', specId: 'streaming-music' });
  changeLineUp(host.server, id, { members: [ids[2], ids[0]].map((programmeId) => ({ programmeId })) });
  expect(lineUpOf(host.server, id)).toMatchObject({
    name: 'Other',
    specId: 'streaming-music',
    members: [
      { programmeId: ids[2], gapSeconds: 0 },
      { programmeId: ids[0], gapSeconds: 0 },
    ],
  });
  removeLineUp(host.server, id);
  expect(listLineUps(host.server, host.jobId)).toEqual([]);
  removeLineUp(host.server, id, false);
  expect(listLineUps(host.server, host.jobId)).toHaveLength(1);
});

test('what makes no line-up is refused, and leaves what there was', async () => {
  const id = record();
  const other = createJob(host.server, 'Another job');
  const twice = { kind: 'batch', name: 'Twice', members: [{ programmeId: ids[0] }, { programmeId: ids[0] }] };
  expect(() => createLineUp(host.server, host.jobId, twice)).toThrow('A programme is in it once');
  expect(
    await code(() =>
      createLineUp(host.server, other, { kind: 'batch', name: 'B', members: [{ programmeId: ids[0] }] }),
    ),
  ).toBe('bad-request');
  expect(await code(() => changeLineUp(host.server, id, { specId: 'none-such' }))).toBe('unknown-spec');
  expect(await code(() => changeLineUp(host.server, 'none-such', { name: 'N' }))).toBe('not-found');
  expect(lineUpOf(host.server, id).members).toHaveLength(3);
});

test.each([0, 2])(
  'it reads what the joined samples read, %d s apart, with the gains that are set',
  async (gapSeconds) => {
    const gains = [-2, 1.5, 6];
    for (const [i, id] of ids.entries()) changeTreatment(host.server, id, { gainDb: gains[i] as number });
    const { whole, tracks, loudest } = await readLineUp(host.server, record(gapSeconds));
    const direct = measure(joinedSamples(gains, gapSeconds), RATE).readings;
    expect(whole?.integratedLufs).toBeCloseTo(direct.integratedLufs ?? 0, 1.5);
    expect(Math.abs((whole?.integratedLufs ?? 0) - (direct.integratedLufs ?? 0))).toBeLessThan(0.03);
    expect(whole?.truePeakDbtp).toBeCloseTo(direct.truePeakDbtp ?? 0, 2);
    expect(whole?.durationSeconds).toBe(36 + 2 * gapSeconds);
    expect(tracks.map(({ startSeconds }) => startSeconds)).toEqual([0, 12 + gapSeconds, 24 + 2 * gapSeconds]);
    expect(tracks.map(({ gapSeconds: own }) => own)).toEqual([gapSeconds, gapSeconds, null]);
    const loudness = tracks.map(({ integratedLufs }) => integratedLufs ?? 0);
    expect(loudest).toBe(ids[loudness.indexOf(Math.max(...loudness))]);
    tracks.forEach(({ fromWholeLu, shortTermLufs }, i) => {
      expect(fromWholeLu).toBeCloseTo((loudness[i] as number) - (whole?.integratedLufs ?? 0), 6);
      expect(shortTermLufs.length).toBeGreaterThan(80);
    });
  },
);

test('an overlap that a programme is too short for is told', async () => {
  const id = record(-6.5);
  expect(await code(() => readLineUp(host.server, id))).toBe('overlap-too-long');
});

test('one gain for all brings the whole, or the loudest, to the target; the balance stays', async () => {
  const id = record(1);
  await setBalance(host.server, id, 'whole-at-target', 'ebu-r128');
  const whole = await readLineUp(host.server, id, 'ebu-r128');
  expect(whole.whole?.integratedLufs).toBeCloseTo(-23, 1.5);
  expect(new Set(ids.map(gainOf)).size).toBe(1);

  await setBalance(host.server, id, 'loudest-at-target', 'ebu-r128');
  const loudest = await readLineUp(host.server, id, 'ebu-r128');
  expect(Math.max(...loudest.tracks.map(({ integratedLufs }) => integratedLufs ?? -99))).toBeCloseTo(-23, 1.5);
  expect(new Set(ids.map(gainOf)).size).toBe(1);
});

test('a gain for each brings every one to the target, and is undone by what it answers', async () => {
  const id = record();
  const { gains, stoppedBy } = await setBalance(host.server, id, 'each-at-target', 'ebu-r128');
  expect(stoppedBy).toEqual([]);
  const { tracks } = await readLineUp(host.server, id, 'ebu-r128');
  for (const { integratedLufs } of tracks) expect(integratedLufs).toBeCloseTo(-23, 1.5);
  expect(gains.map(({ wasDb }) => wasDb)).toEqual([0, 0, 0]);
});

test('the ceiling stops a gain; a limiter lets it go on', async () => {
  const id = record();
  const stopped = await setBalance(host.server, id, 'each-at-target', 'streaming-music');
  const { tracks, spec } = await readLineUp(host.server, id, 'streaming-music');
  for (const { truePeakDbtp } of tracks) expect(truePeakDbtp).toBeLessThanOrEqual(spec.peak.ceiling + 0.001);
  expect(stopped.stoppedBy).toEqual(['piece 3']);
  for (const programmeId of ids)
    changeTreatment(host.server, programmeId, { limit: { ceilingDbtp: spec.peak.ceiling } });
  const limited = await setBalance(host.server, id, 'each-at-target', 'streaming-music');
  expect(limited.stoppedBy).toEqual([]);
  const after = await readLineUp(host.server, id, 'streaming-music');
  for (const { integratedLufs, reductionDb } of after.tracks) {
    expect(integratedLufs).toBeCloseTo(-14, 1);
    expect(reductionDb).not.toBeNull();
  }
});

test.each([false, true])('each way is forecast as it then comes, with limiters (%s)', async (isLimited) => {
  const id = record(-1);
  const spec = 'streaming-music';
  const limit = isLimited ? { ceilingDbtp: -1 } : null;
  for (const programmeId of ids) changeTreatment(host.server, programmeId, { limit });
  const forecasts = await forecastBalances(host.server, id, spec);
  expect(ids.map(gainOf)).toEqual([0, 0, 0]);
  expect(forecasts.map(({ balance }) => balance)).toEqual(BALANCES);
  for (const { balance, outcome } of forecasts) {
    const { stoppedBy } = await setBalance(host.server, id, balance, spec);
    const { whole, tracks } = await readLineUp(host.server, id, spec);
    const levels = tracks.map(({ integratedLufs }) => integratedLufs ?? Number.NaN);
    expect(outcome?.integratedLufs).toBeCloseTo(whole?.integratedLufs ?? Number.NaN, 1.5);
    expect(outcome?.softestLufs).toBeCloseTo(Math.min(...levels), 1.5);
    expect(outcome?.loudestLufs).toBeCloseTo(Math.max(...levels), 1.5);
    expect(outcome?.truePeakDbtp).toBeCloseTo(whole?.truePeakDbtp ?? Number.NaN, 1.5);
    expect(outcome?.stoppedBy).toEqual(stoppedBy);
    if (!isLimited) expect(outcome?.reductionDb).toBeNull();
    else expect(outcome?.reductionDb).toBeCloseTo(Math.max(...tracks.map(({ reductionDb }) => reductionDb ?? 0)), 1);
  }
  // Where the spec has no loudness for the whole, that is said, and each by itself is forecast all the same.
  const spoken = await forecastBalances(host.server, id, 'audiobook-retail');
  expect(spoken.map(({ outcome }) => outcome === null)).toEqual([true, true, false]);
});

test('a limiter is not driven on where more gain brings no loudness', async () => {
  const { id: specId } = copySpec(host.server, { ...specById('streaming-music') }, 'Beyond reach');
  saveSpec(host.server, {
    ...specNamed(host.server, specId),
    loudness: { ...(specById('streaming-music').loudness as object), target: -1 },
  });
  for (const programmeId of ids) changeTreatment(host.server, programmeId, { limit: { ceilingDbtp: -1 } });
  const { gains, stoppedBy } = await setBalance(host.server, record(), 'each-at-target', specId);
  expect(stoppedBy).toHaveLength(3);
  // By hand, nobody would go farther than where peaks are some 20 dB over.
  for (const { gainDb } of gains) expect(gainDb).toBeLessThan(45);
  const { tracks } = await readLineUp(host.server, listLineUps(host.server, host.jobId)[0]?.id as string, specId);
  for (const { reductionDb } of tracks) expect(reductionDb).toBeLessThan(30);
});

test('a spec that measures otherwise can be met by each alone', async () => {
  const id = record();
  expect(await code(() => setBalance(host.server, id, 'whole-at-target', 'audiobook-retail'))).toBe('no-target');
  await setBalance(host.server, id, 'each-at-target', 'audiobook-retail');
  expect(await code(() => setBalance(host.server, id, 'each-at-target', 'archive'))).toBe('no-target');
});

test('what was taken out of the job is left out, and back in its place once it is put back', () => {
  const id = record();
  removeProgramme(host.server, ids[1] as string, true);
  expect(lineUpOf(host.server, id).members.map(({ programmeId }) => programmeId)).toEqual([ids[0], ids[2]]);
  removeProgramme(host.server, ids[1] as string, false);
  expect(lineUpOf(host.server, id).members.map(({ programmeId }) => programmeId)).toEqual(ids);
});

test('groups and names suggest line-ups, until their programmes are in one', () => {
  groupProgrammes(host.server, ids, 'Evening');
  expect(viewLineUps(host.server, host.jobId).proposals).toEqual([
    { kind: 'record', name: 'Evening', programmeIds: ids },
  ]);
  record();
  expect(viewLineUps(host.server, host.jobId).proposals).toEqual([]);
  groupProgrammes(host.server, ids, null);
});

test('what is chosen becomes what its names tell, or a batch in its order; the spec is that of the job until it has its own', async () => {
  const job = createJob(host.server, 'Chosen');
  const add = async (fileName: string, gain: number) => {
    const body = [wavOf([Float32Array.from({ length: RATE }, (_, n) => gain * Math.sin(n / 20))])];
    return (await takeIn(host.server, { jobId: job, fileName, body: body as never })).programmeId;
  };
  const [pads, mix, vox] = [
    await add('song_pads.wav', 0.1),
    await add('song_mix.wav', 0.2),
    await add('song_vox.wav', 0.3),
  ];
  await host.server.runner.whenIdle();
  const stems = lineUpChosen(host.server, job, [pads, mix, vox]);
  expect(lineUpOf(host.server, stems)).toMatchObject({ kind: 'stems', name: 'song', specId: null });
  expect(lineUpOf(host.server, stems).members.map(({ programmeId }) => programmeId)).toEqual([mix, pads, vox]);
  const batch = lineUpChosen(host.server, job, [vox, mix].reverse());
  expect(lineUpOf(host.server, batch)).toMatchObject({ kind: 'batch', name: 'Chosen' });
  expect(lineUpOf(host.server, batch).members.map(({ programmeId }) => programmeId)).toEqual([mix, vox]);

  const specOf = async () => (await readLineUp(host.server, batch)).spec.id;
  expect(await specOf()).toBe('ebu-r128');
  chooseSpec(host.server, job, 'streaming-music');
  expect([await specOf(), viewJob(host.server, job).specId]).toEqual(['streaming-music', 'streaming-music']);
  changeLineUp(host.server, batch, { specId: 'cd-master' });
  expect(await specOf()).toBe('cd-master');
  expect(await code(() => chooseSpec(host.server, job, 'nothing'))).toBe('unknown-spec');
  chooseSpec(host.server, job, null);
  expect(viewJob(host.server, job).specId).toBeNull();
});

test('nothing is read of the whole before all of it is measured', async () => {
  const own = new TestServer();
  try {
    // What is taken in waits until a server goes on with it.
    own.server.runner.stop();
    const members: { programmeId: string }[] = [];
    for (const [i, piece] of pieces.slice(0, 2).entries())
      members.push(await own.takeIn(wavOf(piece), `piece ${i + 1}.wav`));
    const id = createLineUp(own.server, own.jobId, { kind: 'batch', name: 'B', members });
    const early = await readLineUp(own.server, id);
    expect(early).toMatchObject({ whole: null, tracks: [] });
    expect(early.waiting).toHaveLength(2);
    expect(await code(() => setBalance(own.server, id, 'each-at-target', 'ebu-r128'))).toBe('not-measured');
    await own.restart();
    await own.server.runner.whenIdle();
    const read = await readLineUp(own.server, id);
    expect(read.waiting).toEqual([]);
    expect(read.tracks).toHaveLength(2);
  } finally {
    await own.remove();
  }
});

test('line-ups travel in the ZIP of their job', async () => {
  const id = record(1.25);
  changeLineUp(host.server, id, { specId: 'streaming-music' });
  const { body } = await exportJob(host.server, host.jobId);
  const path = join(host.root, 'job.zip');
  await pipeline(body, createWriteStream(path));
  const jobId = await receiveJob(host.server, 'job.zip', createReadStream(path));
  const [brought] = listLineUps(host.server, jobId);
  expect(brought).toMatchObject({ kind: 'record', name: 'Record', specId: 'streaming-music' });
  const titles = new Map(viewJob(host.server, jobId).programmes.map((programme) => [programme.id, programme.title]));
  expect(brought?.members.map(({ programmeId, gapSeconds }) => [titles.get(programmeId), gapSeconds])).toEqual([
    ['piece 1', 1.25],
    ['piece 2', 1.25],
    ['piece 3', 1.25],
  ]);
});
