/** Spans that an edit list or a table names, measured by the command: each held against FFmpeg's reading of the same piece. */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ffmpegLoudness, opsimeter } from '../fixtures/command';
import { decodedByFfmpeg, ffmpeg, material } from '../fixtures/ffmpeg';

const RATE = 48_000;
const folder = mkdtempSync(join(tmpdir(), 'opsimeter-spans-'));
const at = (name: string) => join(folder, name);
beforeAll(() => {
  // Louder from second to second.
  ffmpeg(
    ...material(2, RATE, 12 * RATE),
    '-af',
    "volume='0.05+0.03*t':eval=frame",
    '-c:a',
    'pcm_s24le',
    at('sound.wav'),
  );
  const moving = ['-f', 'lavfi', '-i', 'testsrc2=s=64x64:r=25:d=12'];
  ffmpeg(...moving, '-i', at('sound.wav'), '-c:v', 'mpeg4', '-c:a', 'copy', '-timecode', '10:00:00:00', at('reel.mov'));
  writeFileSync(
    at('cut.edl'),
    `TITLE: CUT
001  A  V  C  00:00:00:00 00:00:04:00 10:00:00:00 10:00:04:00
* FROM CLIP NAME: Quiet
002  B  V  C  00:00:00:00 00:00:05:00 10:00:06:12 10:00:11:12
003  C  V  C  00:00:00:00 00:00:05:00 11:00:00:00 11:00:05:00
`,
  );
});
afterAll(() => rmSync(folder, { recursive: true }));

/** The piece of a span, cut by FFmpeg. */
function cutOut({ startFrame, endFrame }: { startFrame: number; endFrame: number }, codec: string): string {
  const cut = `atrim=start_sample=${startFrame}:end_sample=${endFrame},asetpts=N/SR/TB`;
  ffmpeg('-i', at('sound.wav'), '-af', cut, '-c:a', codec, at('piece.wav'));
  return at('piece.wav');
}

test('each edit is measured by itself, and one outside is named', () => {
  const { code, out, err } = opsimeter('measure', at('reel.mov'), '--spans', at('cut.edl'), '--json');
  expect(code).toBe(0);
  expect(err).toContain('line 5 is left out: it lies outside the file');
  const read = JSON.parse(out) as {
    span: { name: string; startFrame: number; endFrame: number };
    readings: { integratedLufs: number };
  }[];
  expect(read.map(({ span }) => span)).toEqual([
    { name: 'Quiet', startFrame: 0, endFrame: 4 * RATE },
    { name: '002 B', startFrame: 6.48 * RATE, endFrame: 11.48 * RATE },
  ]);
  for (const { span, readings } of read) {
    expect(readings.integratedLufs).toBeCloseTo(ffmpegLoudness(cutOut(span, 'pcm_s24le')).integratedLufs, 1);
  }
});

test('each span is written as a master of its own, from its first frame to its last', () => {
  const write = (...more: string[]) =>
    opsimeter(
      'master',
      at('reel.mov'),
      '--spans',
      at('cut.edl'),
      '--spec',
      'ebu-r128',
      '--out',
      at('cut.wav'),
      ...more,
    );
  const { code, out, err } = write('--json');
  expect(code).toBe(0);
  expect(err).toContain('line 5 is left out: it lies outside the file');
  const written = JSON.parse(out) as {
    files: string[];
    span: { startFrame: number; endFrame: number };
    gainDb: number;
  }[];
  expect(written.map(({ files }) => files)).toEqual([[at('cut 01 Quiet.wav')], [at('cut 02 002 B.wav')]]);
  for (const { files, span, gainDb } of written) {
    const [path = ''] = files;
    expect(ffmpegLoudness(path).integratedLufs).toBeCloseTo(-23, 1);
    const [piece, own] = [decodedByFfmpeg(cutOut(span, 'pcm_f32le'), 2), decodedByFfmpeg(path, 2)];
    expect(own[0]).toHaveLength(span.endFrame - span.startFrame);
    const gain = 10 ** (gainDb / 20);
    const worst = own.reduce(
      (most, samples, c) =>
        samples.reduce((so, sample, n) => Math.max(so, Math.abs(sample - gain * (piece[c]?.[n] as number))), most),
      0,
    );
    expect(worst).toBeLessThan(2 ** -22);
  }
  // Nothing is overwritten, and nothing is written where something stands in the way.
  expect(write().err).toMatch(/cut 01 Quiet\.wav/);
  expect(write('--start', '1').err).toMatch(/takes no --start or --end/);
});

test('a table is checked span by span; a list that names none, or is not there, is said', () => {
  writeFileSync(at('cut.csv'), 'start;end;name\n0:01;0:05;First\n6;10.5;Second\n');
  const { code, out } = opsimeter('check', at('sound.wav'), '--spans', at('cut.csv'), '--spec', 'ebu-r128');
  expect(code).toBe(1);
  expect(out).toContain('First (0:01.000 – 0:05.000)');
  expect(out).toContain('Second (0:06.000 – 0:10.500)');
  writeFileSync(at('none.csv'), 'nothing here\n');
  for (const [list, words] of [
    ['none.csv', 'names no span'],
    ['absent.csv', 'cannot be read'],
  ] as const) {
    expect(opsimeter('measure', at('sound.wav'), '--spans', at(list))).toMatchObject({
      code: 2,
      err: expect.stringContaining(words),
    });
  }
});

test('a sound without a time code is given one: for its spans, what is printed, and what is written', () => {
  const timed = ['--time-code', '10:00:00:00@25'];
  const spans = opsimeter('measure', at('sound.wav'), '--spans', at('cut.edl'), ...timed, '--json');
  expect(JSON.parse(spans.out)).toMatchObject([
    { span: { startFrame: 0, endFrame: 4 * RATE }, metadata: { timeCode: { label: '10:00:00:00', rate: '25' } } },
    { span: { startFrame: 6.48 * RATE, endFrame: 11.48 * RATE } },
  ]);
  const cut = ['--start', '2', '--spec', 'ebu-r128', '--out', at('timed.wav')];
  expect(opsimeter('master', at('sound.wav'), ...cut, ...timed).code).toBe(0);
  const asked = ['-v', 'error', '-show_entries', 'format_tags=time_reference', '-of', 'csv=p=0', at('timed.wav')];
  // Two seconds after ten o'clock, as FFmpeg reads it.
  expect(Number(execFileSync('ffprobe', asked).toString())).toBe((10 * 3600 + 2) * RATE);
  for (const wrong of ['10:00:00:25@25', '10:00:00:00', '10:00:00:00@26']) {
    const { code, err } = opsimeter('measure', at('sound.wav'), '--time-code', wrong);
    expect(code).toBe(2);
    expect(err).toContain(`${wrong} is no time code`);
  }
  const film = opsimeter('master', at('reel.mov'), '--spec', 'ebu-r128', '--out', at('timed.mov'), ...timed);
  expect(film.err).toContain('keeps its own time code');
});
