/** Stems in the app: compared with their mix, written with its treatment, and kept through export and crash. */
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { isAppError } from '@/core/errors/app-error';
import { listAssemblies, orderAssembly } from '@/server/assemblies/assemblies';
import { exportJob } from '@/server/jobs/export-job';
import { receiveJob } from '@/server/jobs/import-job';
import { changeLineUp, createLineUp, lineUpOf, listLineUps } from '@/server/line-ups/line-ups';
import { viewLineUps } from '@/server/line-ups/proposals';
import { orderNullTest, readResidual, viewStems } from '@/server/stems/null-test';
import { changeTreatment } from '@/server/treatments/treatments';
import { sox, soxRmsDb } from '../fixtures/ffmpeg';
import { musicLike, speechLike } from '../fixtures/material';
import { TestServer } from '../fixtures/server';
import { wavOf } from '../fixtures/wav';

const RATE = 48_000;
const FRAMES = 10 * RATE;
const MUTED = [4 * RATE, 6 * RATE] as const;

let host: TestServer;
let ids: string[];
let lineUpId: string;
const cut = (samples: Float32Array, gain: number) => samples.slice(5 * RATE, 5 * RATE + FRAMES).map((x) => gain * x);
const [voice = new Float32Array()] = speechLike().map((samples) => cut(samples, 0.5));
const VOICES = {
  pads: musicLike().map((samples) => cut(samples, 0.4)),
  vox: [voice, voice.map((x) => 0.8 * x)],
};
const MIX = VOICES.pads.map((samples, c) => samples.map((x, n) => x + (VOICES.vox[c]?.[n] as number)));

beforeEach(async () => {
  host = new TestServer();
  ids = [];
  const muted = VOICES.vox.map((samples) => samples.map((x, n) => (n >= MUTED[0] && n < MUTED[1] ? 0 : x)));
  for (const [name, samples] of Object.entries({ song_mix: MIX, song_pads: VOICES.pads, song_vox: muted }))
    ids.push((await host.measured(wavOf(samples), `${name}.wav`)).programmeId);
  lineUpId = createLineUp(host.server, host.jobId, {
    kind: 'stems',
    name: 'Song',
    specId: 'streaming-music',
    members: ids.map((programmeId) => ({ programmeId })),
  });
});
afterEach(() => host.remove());

const view = () => viewStems(host.server, lineUpId);
async function tested() {
  orderNullTest(host.server, lineUpId);
  await host.server.runner.whenIdle();
  return view().test;
}
async function written(format: Parameters<typeof orderAssembly>[2]['format']) {
  const id = orderAssembly(host.server, lineUpId, { form: 'stems', format });
  await host.server.runner.whenIdle();
  return listAssemblies(host.server, lineUpId).find((own) => own.id === id);
}
const codeOf = async (work: () => unknown) => {
  try {
    await work();
    return 'nothing was thrown';
  } catch (error) {
    return isAppError(error) ? error.code : error;
  }
};

test('a mix is known by its name', () => {
  expect(view()).toMatchObject({ mix: { programmeId: ids[0] }, waiting: [], test: null, task: null });
});

test('stems are suggested with their mix', async () => {
  const free = new TestServer();
  try {
    const names = ['dusk_pads', 'dusk_vox', 'dusk_mix', 'dawn_pads', 'dawn', 'dawn_drums', 'other'];
    for (const [i, name] of names.entries()) {
      const hum = Float32Array.from({ length: 4800 }, (_, n) => 0.1 * Math.sin(n / (9 + i)));
      await free.takeIn(wavOf([hum]), `${name}.wav`);
    }
    const titles = new Map(
      free.read<{ id: string; title: string }>('select id, title from programmes').map(({ id, title }) => [id, title]),
    );
    const proposed = viewLineUps(free.server, free.jobId).proposals.map(({ kind, programmeIds }) => [
      kind,
      ...programmeIds.map((id) => titles.get(id)),
    ]);
    expect(proposed).toEqual([
      ['stems', 'dusk_mix', 'dusk_pads', 'dusk_vox'],
      ['stems', 'dawn', 'dawn_pads', 'dawn_drums'],
    ]);
  } finally {
    await free.remove();
  }
});

test('a muted stem is found, once however many ask, and what is left is that stem', async () => {
  const tasks = new Set(Array.from({ length: 4 }, () => orderNullTest(host.server, lineUpId)));
  expect(tasks.size).toBe(1);
  const test = await tested();
  expect(test?.reading).toMatchObject({ nulls: false, faults: [{ kind: 'muted', stem: 1 }] });
  expect(test?.reading.places).toEqual([{ startFrame: MUTED[0], endFrame: MUTED[1], residualDb: expect.any(Number) }]);
  const { channels, sampleRateHz } = await readResidual(host.server, lineUpId, { startFrame: MUTED[0], frames: RATE });
  expect(sampleRateHz).toBe(RATE);
  channels.forEach((samples, c) => {
    const worst = samples.reduce(
      (most, x, n) => Math.max(most, Math.abs(x - (VOICES.vox[c]?.[MUTED[0] + n] as number))),
      0,
    );
    expect(worst).toBeLessThan(2 ** -21);
  });
});

test('the test holds as long as the files are those', async () => {
  await tested();
  changeLineUp(host.server, lineUpId, { name: 'Song again' });
  expect(view().test).not.toBeNull();
  changeLineUp(host.server, lineUpId, {
    members: [ids[0], ids[1]].map((programmeId) => ({ programmeId: programmeId as string, gapSeconds: 0 })),
  });
  expect(view().test).toBeNull();
  expect((await tested())?.reading.faults[0]?.kind).toBe('missing');
});

test('the mix may be said by hand; one that leaves the line-up is it no more', async () => {
  changeLineUp(host.server, lineUpId, { mixId: ids[1] as string });
  expect(view().mix?.programmeId).toBe(ids[1]);
  changeLineUp(host.server, lineUpId, {
    members: [
      { programmeId: ids[0] as string, gapSeconds: 0 },
      { programmeId: ids[2] as string, gapSeconds: 0 },
    ],
  });
  expect(lineUpOf(host.server, lineUpId).mixId).toBeNull();
  expect(view().mix?.programmeId).toBe(ids[0]);
});

test('stems are written with the treatment of their mix, and by SoX they add up to their master', async () => {
  const whole = await host.measured(wavOf(VOICES.vox), 'song_vox whole.wav');
  changeLineUp(host.server, lineUpId, {
    members: [ids[0], ids[1], whole.programmeId].map((programmeId) => ({
      programmeId: programmeId as string,
      gapSeconds: 0,
    })),
  });
  expect((await tested())?.reading.nulls).toBe(true);
  changeTreatment(host.server, ids[0] as string, {
    gainDb: 14,
    limit: { ceilingDbtp: -2 } as never,
    fadeOut: { frames: RATE, shape: 'linear' },
    trim: { startFrame: 1000, endFrame: FRAMES - 2000 },
  });
  // What is set of a stem by itself is not what is written.
  changeTreatment(host.server, ids[1] as string, { gainDb: -40 });
  const song = await written({ kind: 'flac', bitDepth: 24 });
  expect(song).toMatchObject({
    state: 'written',
    form: 'stems',
    folderName: 'Song',
    outcome: { residual: { nulls: true } },
  });
  expect(song?.outcome?.reduction?.greatestDb).toBeGreaterThan(3);
  expect(song?.outcome?.report.readings.truePeakDbtp).toBeLessThan(-1.99);
  const folder = join(host.root, 'records', host.jobId, 'Song');
  const names = readdirSync(folder).sort();
  expect(names).toEqual(['00 Song master.flac', '01 song_pads.flac', '02 song_vox whole.flac', 'Song.pdf']);
  const left = join(host.root, 'left.wav');
  const [master, pads, vox] = names.map((name) => join(folder, name)) as [string, string, string];
  // At half: SoX clips what is over full scale while it adds up.
  sox('-D', '-m', '-v', '0.5', pads, '-v', '0.5', vox, '-v', '-0.5', master, '-e', 'float', '-b', '32', left);
  expect(soxRmsDb(left)).toBeLessThan(-136);
  expect(readFileSync(join(folder, 'Song.pdf'), 'latin1')).toMatch(/^%PDF/);
  expect(host.files().filter((name) => name.includes('.part'))).toEqual([]);
});

test('what cannot be compared with a mix is said, and nothing is begun', async () => {
  expect(await codeOf(() => orderAssembly(host.server, lineUpId, { form: 'stems', format: { kind: 'mp3' } }))).toBe(
    'format-impossible',
  );
  const mono = await host.measured(wavOf([voice]), 'song_mono.wav');
  changeLineUp(host.server, lineUpId, {
    members: [...ids, mono.programmeId].map((programmeId) => ({ programmeId, gapSeconds: 0 })),
  });
  expect(view().stems.at(-1)?.differences).toMatchObject([{ kind: 'channels', isBlocking: true }]);
  expect(await codeOf(() => orderNullTest(host.server, lineUpId))).toBe('stem-differs');
  expect(await codeOf(() => orderAssembly(host.server, lineUpId, { form: 'stems', format: { kind: 'wav' } }))).toBe(
    'stem-differs',
  );
  changeLineUp(host.server, lineUpId, {
    members: [ids[1], ids[2]].map((programmeId) => ({ programmeId: programmeId as string, gapSeconds: 0 })),
  });
  expect(view().mix).toBeNull();
  expect(await codeOf(() => orderNullTest(host.server, lineUpId))).toBe('no-mix');
  expect(host.read<{ n: number }>("select count(*) n from tasks where kind in ('null-test', 'assemble')")).toEqual([
    { n: 0 },
  ]);
});

test('a job brought in again has its mix', async () => {
  changeLineUp(host.server, lineUpId, { mixId: ids[2] as string });
  const { body } = await exportJob(host.server, host.jobId);
  const jobId = await receiveJob(host.server, 'job.zip', body);
  const [brought] = listLineUps(host.server, jobId);
  expect(viewStems(host.server, brought?.id as string).mix?.title).toBe('song_vox');
});
