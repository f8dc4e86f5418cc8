/** Records written in the app: ordered once, read back, resumed after a crash, downloaded, thrown away. */
import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, readFileSync, truncateSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Readable } from 'node:stream';
import { listAssemblies, orderAssembly, previewAssembly } from '@/server/assemblies/assemblies';
import { discardAssembly, downloadAssembled, zipAssembled } from '@/server/assemblies/download';
import { numberIsrcs, setIsrcs } from '@/server/line-ups/isrcs';
import { readLineUp } from '@/server/line-ups/line-up-reading';
import { changeLineUp, createLineUp } from '@/server/line-ups/line-ups';
import { renderTransition } from '@/server/line-ups/transition';
import { Server } from '@/server/server';
import { DataFolder } from '@/server/storage/data-folder';
import { steerTask } from '@/server/tasks/view';
import { changeTreatment } from '@/server/treatments/treatments';
import { ffmpegLoudness } from '../fixtures/command';
import { code } from '../fixtures/error-code';
import { musicLike } from '../fixtures/material';
import { TestServer } from '../fixtures/server';
import { wavOf } from '../fixtures/wav';

/** Looking a global up is slow inside the test runner's sandbox, and this runs once a frame. */
const { abs } = Math;
const RATE = 48_000;
const WAV = { kind: 'wav' } as const;

let host: TestServer;
let ids: string[];
let lineUpId: string;
beforeEach(async () => {
  host = new TestServer();
  ids = [];
  for (const [i, gain] of [0.5, 0.25, 0.35].entries()) {
    const piece = musicLike().map((samples) => samples.slice(i * 8 * RATE, (i * 8 + 9) * RATE + 777 * i));
    const bytes = wavOf(piece.map((samples) => samples.map((x) => gain * x)));
    ids.push((await host.measured(bytes, `piece ${i + 1}.wav`)).programmeId);
  }
  lineUpId = createLineUp(host.server, host.jobId, {
    kind: 'record',
    name: 'Dusk',
    specId: 'streaming-music',
    members: ids.map((programmeId, i) => ({ programmeId, gapSeconds: [1.5, -1, 0][i] as number })),
  });
});
afterEach(() => host.remove());

const folder = (name: string) => join(host.root, 'records', host.jobId, name);
const newest = () => listAssemblies(host.server, lineUpId)[0];
async function written(form: 'continuous' | 'single', format: Parameters<typeof orderAssembly>[2]['format'] = WAV) {
  const id = orderAssembly(host.server, lineUpId, { form, format });
  await host.server.runner.whenIdle();
  return listAssemblies(host.server, lineUpId).find((own) => own.id === id);
}

test('a record is written as it was set, limiter and fades included, and reads what was forecast', async () => {
  changeTreatment(host.server, ids[0] as string, { gainDb: 6, limit: { ceilingDbtp: -3 } as never });
  changeTreatment(host.server, ids[2] as string, { fadeOut: { frames: RATE, shape: 's-curve' } });
  changeLineUp(host.server, lineUpId, { record: { artist: 'The Quillmere', catalogNumber: '4006381333931' } as never });
  const { whole } = await readLineUp(host.server, lineUpId);
  const record = await written('continuous');
  expect(record).toMatchObject({ state: 'written', folderName: 'Dusk', task: null });
  expect(readdirSync(folder('Dusk')).sort()).toEqual(['Dusk.csv', 'Dusk.cue', 'Dusk.pdf', 'Dusk.wav']);
  const { integratedLufs, truePeakDbtp } = record?.outcome?.report.readings ?? {};
  expect(Math.abs((integratedLufs ?? 0) - (whole?.integratedLufs ?? 0))).toBeLessThan(0.05);
  expect(
    Math.abs((integratedLufs ?? 0) - ffmpegLoudness(join(folder('Dusk'), 'Dusk.wav')).integratedLufs),
  ).toBeLessThan(0.06);
  expect(truePeakDbtp).toBeLessThan(0);
  expect(readFileSync(join(folder('Dusk'), 'Dusk.cue'), 'utf8')).toContain('PERFORMER "The Quillmere"');
  expect(readFileSync(join(folder('Dusk'), 'Dusk.pdf'), 'latin1')).toMatch(/^%PDF/);
  // Nothing of what it took meanwhile is left.
  expect(host.files().filter((name) => name.startsWith('records') && name.includes('.part'))).toEqual([]);
});

test('single files and the continuous one hold the same samples, as SoX reads them', async () => {
  await written('continuous');
  await written('single');
  const names = readdirSync(folder('Dusk 2'))
    .filter((name) => name.endsWith('.wav'))
    .sort();
  expect(names).toEqual(['01 piece 1.wav', '02 piece 2.wav', '03 piece 3.wav']);
  const raw = (...paths: string[]) => execFileSync('sox', [...paths, '-t', 'raw', '-'], { maxBuffer: 1 << 28 });
  const joined = raw(...names.map((name) => join(folder('Dusk 2'), name)));
  expect(Buffer.compare(joined, raw(join(folder('Dusk'), 'Dusk.wav')))).toBe(0);
});

test('however many ask at once, it is written once; asked again, it has a folder of its own', async () => {
  const asked = Array.from({ length: 5 }, () =>
    orderAssembly(host.server, lineUpId, { form: 'continuous', format: WAV }),
  );
  expect(new Set(asked).size).toBe(1);
  await host.server.runner.whenIdle();
  expect(listAssemblies(host.server, lineUpId)).toHaveLength(1);
  expect((await written('continuous'))?.folderName).toBe('Dusk 2');
});

test('what is changed while it is written changes nothing of it', async () => {
  orderAssembly(host.server, lineUpId, { form: 'continuous', format: WAV });
  changeTreatment(host.server, ids[0] as string, { gainDb: -20 });
  changeLineUp(host.server, lineUpId, { name: 'Dawn', members: [{ programmeId: ids[0] as string, gapSeconds: 0 }] });
  await host.server.runner.whenIdle();
  expect(newest()?.outcome?.rows).toHaveLength(3);
  expect(newest()?.folderName).toBe('Dusk');
});

test('a process that ends while it is written leaves nothing, and the next one writes it', async () => {
  const id = orderAssembly(host.server, lineUpId, { form: 'single', format: WAV });
  await new Promise((done) => setTimeout(done, 150));
  await host.server.close();
  // What a process leaves that is killed between naming the folder and recording it.
  mkdirSync(folder('Dusk'), { recursive: true });
  writeFileSync(join(folder('Dusk'), 'half.wav'), 'half');
  mkdirSync(folder(`.${id}.part`), { recursive: true });
  writeFileSync(join(folder(`.${id}.part`), '.member-1.part'), 'half');
  host.server = new Server(new DataFolder(host.root));
  expect(existsSync(folder(`.${id}.part`))).toBe(false);
  await host.server.runner.whenIdle();
  expect(newest()).toMatchObject({ id, state: 'written' });
  expect(readdirSync(folder('Dusk'))).not.toContain('half.wav');
});

test('cancelled, it leaves nothing, and can be tried again', async () => {
  orderAssembly(host.server, lineUpId, { form: 'single', format: WAV });
  steerTask(host.server, newest()?.task?.taskId ?? '', 'cancel');
  await host.server.runner.whenIdle();
  expect(newest()).toMatchObject({ state: 'ended', task: { state: 'cancelled' } });
  expect(host.files().filter((name) => name.startsWith('records'))).toEqual([]);
  steerTask(host.server, newest()?.task?.taskId ?? '', 'retry');
  await host.server.runner.whenIdle();
  expect(newest()?.state).toBe('written');
});

test('a source that was changed since it was taken in is found out before anything is handed over', async () => {
  const [first] = host.files().filter((name) => name.startsWith('sources/'));
  const path = join(host.root, first as string);
  const bytes = readFileSync(path);
  bytes.writeInt16LE(1234, 100_000);
  writeFileSync(path, bytes);
  expect(await written('continuous')).toMatchObject({ state: 'ended', task: { state: 'failed' } });
  expect(existsSync(folder('Dusk'))).toBe(false);
});

test('its files are downloaded as they were verified, or not at all; thrown away, they are gone', async () => {
  const record = await written('continuous');
  const id = record?.id ?? '';
  const file = await downloadAssembled(host.server, id, 0);
  expect(file).toMatchObject({
    fileName: 'Dusk.wav',
    mediaType: 'audio/wav',
    sizeBytes: record?.outcome?.files[0]?.sizeBytes,
  });
  const zip = await zipAssembled(host.server, id);
  expect(await namesIn(zip.body)).toEqual(['Dusk/Dusk.wav', 'Dusk/Dusk.cue', 'Dusk/Dusk.csv', 'Dusk/Dusk.pdf']);
  expect(await code(() => downloadAssembled(host.server, id, 9))).toBe('not-found');
  truncateSync(join(folder('Dusk'), 'Dusk.cue'), 10);
  expect(await code(() => downloadAssembled(host.server, id, 1))).toBe('delivery-altered');
  expect(await code(() => zipAssembled(host.server, id))).toBe('delivery-altered');
  await discardAssembly(host.server, id);
  expect([existsSync(folder('Dusk')), listAssemblies(host.server, lineUpId)]).toEqual([false, []]);
  expect(await code(() => discardAssembly(host.server, id))).toBe('not-found');
});

test.each(['a gap', 'an overlap', 'one limiter over the whole'])(
  'a transition is heard as it is written: %s',
  async (kind) => {
    changeTreatment(host.server, ids[0] as string, { gainDb: 8, limit: { ceilingDbtp: -3 } as never });
    changeTreatment(host.server, ids[1] as string, { gainDb: 3, fadeIn: { frames: 2400, shape: 'linear' } });
    const limit = kind === 'one limiter over the whole' ? { ceilingDbtp: -6 } : null;
    changeLineUp(host.server, lineUpId, { record: { limit } as never });
    const after = kind === 'a gap' ? 0 : 1;
    const heard = await renderTransition(host.server, lineUpId, ids[after] as string);
    await written('continuous', { kind: 'wav', bitDepth: 32 });
    const raw = execFileSync('sox', [join(folder('Dusk'), 'Dusk.wav'), '-t', 'raw', '-e', 'float', '-b', '32', '-'], {
      maxBuffer: 1 << 28,
    });
    const whole = new Float32Array(raw.buffer, raw.byteOffset, raw.length / 4);
    // Marks stand at most 1/75 s ahead of where the next one begins.
    const mark = newest()?.outcome?.rows[after + 1]?.startFrame as number;
    const right = heard.channels[1] as Float32Array;
    const { length } = right;
    const off = (from: number) => {
      let most = 0;
      // Once it is not that place, by how much does not matter.
      for (let n = 0; n < length && most < 0.1; n++) {
        const apart = abs((right[n] as number) - (whole[2 * (from + n) + 1] as number));
        if (apart > most) most = apart;
      }
      return most;
    };
    const starts = Array.from({ length: 640 }, (_, n) => mark + n - heard.startFrame);
    const best = Math.min(...starts.map((from) => (from + length > whole.length / 2 ? 9 : off(from))));
    // A limiter over the whole goes on from what it held before; that is gone within the first second.
    expect(best).toBeLessThan(limit ? 0.02 : 1e-6);
    expect(heard.reductionDb.map((own) => own.length > 0)).toEqual([after === 0 && !limit, false]);
    expect(heard.startFrame - heard.endFrame).toBe(after === 0 ? 1.5 * RATE : -RATE);
  },
);

test('behind the last programme there is no transition', async () => {
  expect(await code(() => renderTransition(host.server, lineUpId, ids[2] as string))).toBe('not-found');
});

test('what a CD asks is told beforehand and afterwards', async () => {
  changeLineUp(host.server, lineUpId, { record: { isForCd: true } as never });
  const missed = (format: Parameters<typeof orderAssembly>[2]['format']) =>
    previewAssembly(host.server, lineUpId, { form: 'continuous', format }).cd?.flatMap(({ key, inside }) =>
      inside ? [] : key,
    );
  expect(missed(WAV)).toEqual(['cd-format']);
  const cd = { kind: 'wav', sampleRateHz: 44_100, bitDepth: 16 } as const;
  expect(missed(cd)).toEqual([]);
  const { tracks } = previewAssembly(host.server, lineUpId, { form: 'continuous', format: cd });
  const record = await written('continuous', cd);
  expect(record?.outcome?.cd?.every(({ inside }) => inside)).toBe(true);
  expect(record?.outcome?.rows.map(({ startFrame }) => startFrame)).toEqual(tracks.map(({ startFrame }) => startFrame));
});

test('ISRCs are numbered on from a first, into tags and files, and taken back', async () => {
  expect(await code(() => numberIsrcs(host.server, lineUpId, 'QD-A1A'))).toBe('bad-request');
  expect(await code(() => numberIsrcs(host.server, lineUpId, 'QD-A1A-26-99998'))).toBe('bad-request');
  const numbered = numberIsrcs(host.server, lineUpId, 'qd-a1a-26-00009');
  expect(numbered.map(({ isrc }) => isrc)).toEqual(['QDA1A2600009', 'QDA1A2600010', 'QDA1A2600011']);
  const record = await written('continuous');
  expect(record?.outcome?.rows.map(({ isrc }) => isrc)).toEqual(numbered.map(({ isrc }) => isrc));
  setIsrcs(
    host.server,
    numbered.map(({ programmeId, was }) => ({ programmeId, isrc: was })),
  );
  expect((await written('continuous'))?.outcome?.rows.map(({ isrc }) => isrc)).toEqual(['', '', '']);
});

/** Names in a ZIP, as unzip lists them. */
async function namesIn(body: Readable): Promise<string[]> {
  const path = join(host.root, 'record.zip');
  const pieces: Buffer[] = [];
  for await (const piece of body) pieces.push(piece as Buffer);
  writeFileSync(path, Buffer.concat(pieces));
  const yauzl = await import('yauzl');
  const zip = await yauzl.default.openPromise(path, { lazyEntries: true });
  const names: string[] = [];
  for await (const entry of zip.eachEntry()) names.push(entry.fileName);
  return names;
}
