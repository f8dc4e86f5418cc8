/**
 * Sound put back into films by the app: from verified files, all of a film at once. What comes out is judged by FFmpeg: packets, time code,
 * loudness.
 */
import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { appendFileSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type BatchWish, batchWish } from '@/core/batch/batch';
import { certificateSchema } from '@/core/delivery/certificate';
import { type AssemblyView, listAssemblies, orderAssembly } from '@/server/assemblies/assemblies';
import { downloadAssembled } from '@/server/assemblies/download';
import { viewFilm } from '@/server/assemblies/film';
import { orderBatch } from '@/server/batches/batches';
import { handedOver } from '@/server/deliveries/handed-over';
import { exportJob } from '@/server/jobs/export-job';
import { receiveJob } from '@/server/jobs/import-job';
import { viewJob } from '@/server/jobs/jobs';
import { replaceSource } from '@/server/jobs/replace';
import { filmLineUp } from '@/server/line-ups/films';
import { listLineUps, removeLineUp } from '@/server/line-ups/line-ups';
import { viewLineUps } from '@/server/line-ups/proposals';
import { takeInTracks } from '@/server/take-in/tracks';
import { changeTreatment } from '@/server/treatments/treatments';
import { ffmpegLoudness } from '../fixtures/command';
import { decodedByFfmpeg, ffmpeg } from '../fixtures/ffmpeg';
import { TestServer } from '../fixtures/server';
import { gathered } from '../fixtures/unzipped';

const RATE = 48_000;
const scratch = mkdtempSync(join(tmpdir(), 'opsimeter-films-'));
const at = (name: string) => join(scratch, name);
const moving = ['-f', 'lavfi', '-i', 'testsrc2=s=160x90:r=25:d=4'];
/** Noise that is the same each time. */
const noise = (seed: number, level = 0.2) => [
  '-f',
  'lavfi',
  '-i',
  `anoisesrc=r=${RATE}:d=4:seed=${seed}:a=${level}:c=pink`,
];

let host: TestServer;
beforeAll(() => {
  const nine = Array.from({ length: 9 }, (_, i) => noise(i + 1, 0.1 + 0.02 * i)).flat();
  const mapped = Array.from({ length: 10 }, (_, i) => ['-map', `${i}`]).flat();
  const written = ['-c:v', 'mpeg2video', '-c:a', 'pcm_s24le', '-timecode', '10:00:00:00'];
  ffmpeg(...moving, ...nine, ...mapped, ...written, at('reel.mxf'));
  ffmpeg(...moving, ...noise(20), '-ac', '2', '-c:v', 'libx264', '-c:a', 'aac', '-b:a', '160k', at('clip.mp4'));
});
afterAll(() => rmSync(scratch, { recursive: true }));
beforeEach(() => {
  host = new TestServer();
});
afterEach(() => host.remove());

const idOf = (title: string) =>
  viewJob(host.server, host.jobId).programmes.find((own) => own.title === title)?.id ?? '';

/** The hash of the packets of a stream, as FFmpeg reads them. */
function packets(path: string, stream: string): string {
  const copied = ['-map', `0:${stream}`, '-c', 'copy', '-f', 'streamhash', '-hash', 'md5', '-'];
  return ffmpeg('-i', path, ...copied).toString();
}

function probed(path: string) {
  const asked = ['-v', 'error', '-show_streams', '-show_format', '-of', 'json', path];
  return JSON.parse(execFileSync('ffprobe', asked).toString());
}

/** Has programmes written so that they meet a spec, each by itself. */
async function deliver(ids: readonly string[], wish: Partial<Extract<BatchWish, { kind: 'deliver' }>>): Promise<void> {
  orderBatch(host.server, host.jobId, ids, batchWish.parse({ kind: 'deliver', specId: 'ebu-r128', ...wish }));
  await host.server.runner.whenIdle();
}

async function written(lineUpId: string, format: object): Promise<AssemblyView> {
  orderAssembly(host.server, lineUpId, { form: 'film', format: { kind: 'wav', ...format } });
  await host.server.runner.whenIdle();
  const [view] = listAssemblies(host.server, lineUpId);
  if (!view?.outcome) throw new Error(view?.task?.error?.happened ?? 'nothing was written');
  return view;
}

/** A film of nine mono tracks, with a stereo and a 5.1 programme made of eight of them. */
async function reel(): Promise<{ lineUpId: string; ids: string[] }> {
  const { programmeId } = await host.measured(readFileSync(at('reel.mxf')), 'reel.mxf');
  await takeInTracks(host.server, programmeId, [
    [3, 4, 5, 6, 7, 8],
    [1, 2],
  ]);
  await host.server.runner.whenIdle();
  const ids = [idOf('reel, tracks 1+2'), idOf('reel, tracks 3-8')];
  return { lineUpId: filmLineUp(host.server, programmeId), ids };
}

test('an MXF of mono tracks gets its stereo and its 5.1 back, each at its target, and nothing else is touched', async () => {
  const { lineUpId, ids } = await reel();
  const [lineUp] = listLineUps(host.server, host.jobId);
  expect(lineUp).toMatchObject({ id: lineUpId, kind: 'film', name: 'reel' });
  expect(lineUp?.members.map(({ programmeId }) => programmeId)).toEqual(ids);
  const before = await viewFilm(host.server, lineUpId);
  expect(before).toMatchObject({ tracks: 9, copiedTracks: [9], timeCode: '10:00:00:00', problem: null });
  expect(before.sounds.map(({ tracks, delivery }) => [tracks, delivery])).toEqual([
    ['1+2', null],
    ['3-8', null],
  ]);
  expect(before.wanted).toMatchObject({ kind: 'wav', bitDepth: 24 });
  expect(() => orderAssembly(host.server, lineUpId, { form: 'film', format: { kind: 'wav' } })).toThrow(
    expect.objectContaining({
      code: 'sounds-not-delivered',
      details: { sounds: 2, titles: 'reel, tracks 1+2, reel, tracks 3-8' },
    }),
  );
  await deliver(ids, { format: before.wanted });
  const ready = await viewFilm(host.server, lineUpId);
  expect(ready.sounds.map(({ delivery }) => delivery?.state)).toEqual(['inside', 'inside']);
  // Asked twice at once, it is written once.
  orderAssembly(host.server, lineUpId, { form: 'film', format: { kind: 'wav' } });
  const { outcome, folderName, id } = await written(lineUpId, {});
  expect(listAssemblies(host.server, lineUpId)).toHaveLength(1);
  expect(outcome?.files.map(({ fileName, role }) => [fileName, role])).toEqual([
    ['reel.mxf', 'film'],
    ['reel certificates.pdf', 'certificate'],
    ['reel certificates.json', 'certificate'],
  ]);
  const folder = host.server.folder.record(host.jobId, folderName);
  const film = join(folder, 'reel.mxf');
  const { streams, format } = probed(film);
  expect(streams).toHaveLength(10);
  expect(format.tags.timecode).toBe('10:00:00:00');
  for (const stream of ['v:0', 'a:8']) expect(packets(film, stream)).toBe(packets(at('reel.mxf'), stream));
  const read = (numbers: number[]) => {
    const picked = numbers.map((number) => `[0:a:${number - 1}]`).join('');
    const merged = `${picked}amerge=inputs=${numbers.length}`;
    ffmpeg('-i', film, '-filter_complex', merged, '-c:a', 'pcm_s24le', at('heard.wav'));
    return ffmpegLoudness(at('heard.wav')).integratedLufs;
  };
  expect(Math.abs(read([1, 2]) + 23)).toBeLessThan(0.1);
  // FFmpeg weighs the surrounds as channels 5 and 6 of what is 5.1 by its channel mask, which is made here by hand.
  ffmpeg(
    '-i',
    film,
    '-filter_complex',
    '[0:a:2][0:a:3][0:a:4][0:a:5][0:a:6][0:a:7]join=inputs=6:channel_layout=5.1',
    '-c:a',
    'pcm_s24le',
    at('heard.wav'),
  );
  expect(Math.abs(ffmpegLoudness(at('heard.wav')).integratedLufs + 23)).toBeLessThan(0.1);
  expect(outcome?.sounds).toMatchObject([
    { tracks: [1, 2], formatText: 'MXF, tracks 1+2: PCM 24-bit · 48 kHz', movedMs: 0, verdict: { inside: true } },
    { tracks: [3, 4, 5, 6, 7, 8], movedMs: 0, verdict: { inside: true } },
  ]);
  const certificates = JSON.parse(readFileSync(join(folder, 'reel certificates.json'), 'utf8')).map((own: unknown) =>
    certificateSchema.parse(own),
  );
  const hash = createHash('sha256').update(readFileSync(film)).digest('hex');
  expect(certificates.map((own: { files: unknown }) => own.files)).toEqual(
    certificates.map(() => [expect.objectContaining({ fileName: 'reel.mxf', sha256: hash })]),
  );
  expect(certificates[1]).toMatchObject({
    programme: 'reel, tracks 3-8',
    inside: true,
    partOf: [{ name: 'reel', kind: 'film', place: 2, of: 2 }],
  });
  expect((await downloadAssembled(host.server, id, 0)).mediaType).toBe('application/mxf');
  const { files } = await handedOver(host.server, host.jobId);
  expect(files.map(({ name }) => name)).toContain('reel/reel.mxf');
  expect(host.files().filter((name) => name.includes('.part'))).toEqual([]);
});

test('a coded track gets its own codec back, from a file that is coded once', async () => {
  const { programmeId } = await host.measured(readFileSync(at('clip.mp4')), 'clip.mp4');
  // A film by itself is no line-up until somebody wants one, and then it is one.
  expect(viewLineUps(host.server, host.jobId).proposals).toEqual([]);
  const lineUpId = filmLineUp(host.server, programmeId);
  expect(filmLineUp(host.server, programmeId)).toBe(lineUpId);
  const { wanted, wantedText, sounds } = await viewFilm(host.server, lineUpId);
  expect(sounds).toMatchObject([{ tracks: '1', codecText: 'AAC' }]);
  expect(wanted).toMatchObject({ kind: 'm4a', bitRateKbps: 160 });
  expect(wantedText).toContain('160');
  // A WAV can't go into an MP4: it is told apart from what can.
  await deliver([programmeId], { format: { ...wanted, kind: 'wav', bitRateKbps: null } });
  expect((await viewFilm(host.server, lineUpId)).sounds[0]?.delivery).toBeNull();
  await deliver([programmeId], { format: wanted });
  const { outcome, folderName } = await written(lineUpId, wanted);
  const film = join(host.server.folder.record(host.jobId, folderName), 'clip.mp4');
  expect(packets(film, 'v:0')).toBe(packets(at('clip.mp4'), 'v:0'));
  expect(packets(film, 'a:0').split('=')[1]).not.toBe(packets(at('clip.mp4'), 'a:0').split('=')[1]);
  expect(probed(film).streams[1]).toMatchObject({ codec_name: 'aac', channels: 2 });
  expect(Math.abs(ffmpegLoudness(film).integratedLufs + 23)).toBeLessThan(0.2);
  expect(outcome?.sounds).toMatchObject([
    { formatText: 'MP4, track 1: AAC 160 kbit/s · 48 kHz', verdict: { inside: true } },
  ]);
});

test('what does not fit is said before anything is written', async () => {
  const { lineUpId, ids } = await reel();
  const { wanted } = await viewFilm(host.server, lineUpId);
  changeTreatment(host.server, ids[0] ?? '', { trim: { startFrame: RATE, endFrame: null } });
  await deliver(ids, { format: wanted });
  const { problem, sounds } = await viewFilm(host.server, lineUpId);
  expect(problem).toContain('length');
  expect(sounds[0]?.problem).toContain('length');
  expect(() => orderAssembly(host.server, lineUpId, { form: 'film', format: wanted })).toThrow(
    expect.objectContaining({ code: 'bad-request' }),
  );
  changeTreatment(host.server, ids[0] ?? '', { trim: null });
  // Its file is not as it is set by now.
  await deliver(ids, { format: wanted });
  expect((await viewFilm(host.server, lineUpId)).problem).toBeNull();
  // A file that was altered meanwhile goes into no film, and the film's own folder is as it was.
  const [altered] = viewJob(host.server, host.jobId).programmes.flatMap(({ id, deliveries }) =>
    id === ids[1] ? deliveries : [],
  );
  appendFileSync(host.server.folder.delivery(host.jobId, altered?.fileName ?? ''), 'x');
  await expect(written(lineUpId, wanted)).rejects.toThrow(altered?.fileName);
  expect(host.files().filter((name) => name.startsWith('records'))).toEqual([]);
});

test('a mix that was made elsewhere goes back in the place of its tracks, where it is as long as they are', async () => {
  const { lineUpId, ids } = await reel();
  const [stereo = '', surround = ''] = ids;
  const { wanted } = await viewFilm(host.server, lineUpId);
  for (const [seconds, isFine] of [
    [5, false],
    [4, true],
  ] as const) {
    const mixed = ['-f', 'lavfi', '-i', `anoisesrc=r=${RATE}:d=${seconds}:seed=99:a=0.1:c=brown`];
    ffmpeg(...mixed, '-ac', '2', '-c:a', 'pcm_s24le', at(`mix-${seconds}.wav`));
    const { programmeId } = await host.measured(readFileSync(at(`mix-${seconds}.wav`)), `mix-${seconds}.wav`);
    replaceSource(host.server, stereo, programmeId);
    await deliver([stereo, surround], { format: wanted });
    const { sounds, problem } = await viewFilm(host.server, lineUpId);
    expect(sounds[0]).toMatchObject({ tracks: '1+2', delivery: { state: 'inside' } });
    if (isFine) expect(problem).toBeNull();
    else expect(problem).toContain('as long as');
  }
  const { outcome, folderName } = await written(lineUpId, wanted);
  expect(outcome?.sounds?.map(({ verdict }) => verdict.inside)).toEqual([true, true]);
  const film = join(host.server.folder.record(host.jobId, folderName), 'reel.mxf');
  // Nothing of the old tracks is left: the new ones are the mix, louder or softer.
  const channel = (path: string, filter: string) => {
    ffmpeg('-i', path, '-filter_complex', filter, '-c:a', 'pcm_f32le', at('one.wav'));
    return decodedByFfmpeg(at('one.wav'), 1)[0] ?? new Float32Array();
  };
  const [back, mix] = [channel(film, '[0:a:1]anull'), channel(at('mix-4.wav'), 'pan=1c|c0=c1')];
  const peakAt = mix.reduce((best, x, i) => (Math.abs(x) > Math.abs(mix[best] ?? 0) ? i : best), 0);
  const gain = (back[peakAt] ?? 0) / (mix[peakAt] ?? 1);
  const apart = mix.reduce((most, x, i) => Math.max(most, Math.abs((back[i] ?? 0) - gain * x)), 0);
  expect(back).toHaveLength(mix.length);
  expect(apart).toBeLessThan(2 ** -21);
});

test('a film goes out in the ZIP of its job and comes in again, measured anew', async () => {
  const { lineUpId, ids } = await reel();
  await deliver(ids, { format: (await viewFilm(host.server, lineUpId)).wanted });
  const { outcome } = await written(lineUpId, {});
  const { body } = await exportJob(host.server, host.jobId);
  const bytes = await gathered(body);
  const jobId = await receiveJob(
    host.server,
    'job.zip',
    (async function* once() {
      yield bytes;
    })(),
  );
  const [lineUp] = listLineUps(host.server, jobId);
  const [there] = listAssemblies(host.server, lineUp?.id ?? '');
  const readings = (view: AssemblyView['outcome']) =>
    view?.sounds?.map(({ report, verdict }) => [report.readings, verdict]);
  expect(readings(there?.outcome ?? null)).toEqual(readings(outcome));
  expect(there?.outcome?.files).toEqual(outcome?.files);
  // It is still known which tracks its programmes are.
  expect(
    (await viewFilm(host.server, lineUp?.id ?? '')).sounds.map(({ tracks, delivery }) => [tracks, delivery === null]),
  ).toEqual([
    ['1+2', false],
    ['3-8', false],
  ]);
});

test('tracks that were put together are proposed as a film; other programmes are not', async () => {
  const { lineUpId, ids } = await reel();
  removeLineUp(host.server, lineUpId);
  expect(viewLineUps(host.server, host.jobId).proposals).toEqual([{ kind: 'film', name: 'reel', programmeIds: ids }]);
  ffmpeg(...noise(30), '-ac', '2', at('plain.wav'));
  const { programmeId } = await host.measured(readFileSync(at('plain.wav')), 'plain.wav');
  expect(() => filmLineUp(host.server, programmeId)).toThrow(expect.objectContaining({ code: 'bad-request' }));
  expect(() => filmLineUp(host.server, 'nobody')).toThrow(expect.objectContaining({ code: 'not-found' }));
});
