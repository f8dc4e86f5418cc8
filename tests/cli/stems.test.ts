/** Stems and their mix in a job file of `opsimeter deliver`: written stems against their written master, by SoX. */
import { existsSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { opsimeter } from '../fixtures/command';
import { ffmpeg, sox, soxRmsDb } from '../fixtures/ffmpeg';
import { musicLike, speechLike } from '../fixtures/material';
import { wavOf } from '../fixtures/wav';

const RATE = 48_000;
const SECONDS = 8;
const STEMS = ['music', 'voice', 'noise'] as const;

let folder: string;
const at = (...names: string[]) => join(folder, ...names);

beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'opsimeter-stems-'));
  const cut = (samples: Float32Array, gain: number) => samples.slice(0, SECONDS * RATE).map((x) => gain * x);
  const [voice = new Float32Array()] = speechLike().map((samples) => cut(samples, 0.4));
  const music = musicLike().map((samples) => cut(samples, 0.5));
  writeFileSync(at('music.wav'), wavOf(music, { sampleRateHz: RATE }));
  writeFileSync(at('voice.wav'), wavOf([voice, voice.map((x) => 0.7 * x)], { sampleRateHz: RATE }));
  sox(
    '-D',
    '-n',
    '-r',
    `${RATE}`,
    '-c',
    '2',
    '-b',
    '24',
    at('noise.wav'),
    'synth',
    `${SECONDS}`,
    'pinknoise',
    'vol',
    '0.1',
  );
  sox('-D', '-m', ...STEMS.flatMap((name) => ['-v', '1', at(`${name}.wav`)]), '-b', '24', at('mix.wav'));
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const LIMITED = {
  gainDb: 18,
  limit: { ceilingDbtp: -1, link: 0.5 },
  trim: { startFrame: 4800, endFrame: SECONDS * RATE - 9600 },
  fadeIn: { frames: 4800, shape: 's-curve' },
  fadeOut: { frames: 9600, shape: 's-curve' },
  removeDc: true,
};

function deliver(name: string, job: object, stems: readonly object[] = STEMS.map((stem) => ({ file: `${stem}.wav` }))) {
  const jobFile = at(`${name}.json`);
  const own = { name, spec: 'ebu-r128', mix: { file: 'mix.wav' }, stems, treatment: LIMITED, ...job };
  writeFileSync(jobFile, JSON.stringify({ output: 'out', stems: [own] }));
  const { code, out, err } = opsimeter('deliver', jobFile, '--json');
  expect(err).toBe('');
  return { code, written: JSON.parse(out)[0] };
}

/** SoX clips what is over full scale while it adds up: it is given all of it at a quarter. */
const QUARTER_DB = 20 * Math.log10(4);

/** RMS of the sum of all stems of a folder less its master, in dB, as SoX adds them up. */
function leftBySox(name: string): number {
  const files = readdirSync(at('out', name)).sort();
  const [master, ...stems] = files.map((file) => at('out', name, file)) as [string, ...string[]];
  const left = at('left.wav');
  const quarters = stems.flatMap((path) => ['-v', '0.25', path]);
  sox('-D', '-m', ...quarters, '-v', '-0.25', master, '-e', 'float', '-b', '32', left);
  return soxRmsDb(left) + QUARTER_DB;
}

test.each<[string, object, number]>([
  ['float', { format: { kind: 'wav', bitDepth: 32 } }, -140],
  ['24 bits', { format: { kind: 'wav', bitDepth: 24 } }, -130],
  ['24 bits with dither', { format: { kind: 'wav', bitDepth: 24, dither: 'tpdf' } }, -120],
  ['16 bits with dither', { format: { kind: 'wav', bitDepth: 16 } }, -86],
  ['FLAC', { format: { kind: 'flac', bitDepth: 24 } }, -130],
  ['AIFF at 44.1 kHz', { format: { kind: 'aiff', bitDepth: 24, sampleRateHz: 44_100 } }, -120],
])('limited stems add up to their master: %s', (name, job, mostDb) => {
  const { code, written } = deliver(name, job);
  expect(code).toBe(1); // It is far too loud for the spec.
  expect(written.residual).toMatchObject({ nulls: true });
  expect(written.reduction.greatestDb).toBeGreaterThan(3);
  expect(written.files.map(({ track }: { track: number | null }) => track)).toEqual([null, 1, 2, 3]);
  const leftDb = leftBySox(name);
  console.info(`${name}: ${leftDb.toFixed(1)} dB left`);
  expect(leftDb).toBeLessThan(mostDb);
  // As we read it, too: SoX counts in 32-bit integers, and rounds what it adds up.
  expect(written.residual.residualDb ?? Number.NEGATIVE_INFINITY).toBeLessThan(mostDb);
});

test('the limiter of each stem by itself would not add up: the curve is that of the mix', () => {
  for (const file of ['mix', ...STEMS]) {
    const { err } = opsimeter(
      'master',
      at(`${file}.wav`),
      '--spec',
      'ebu-r128',
      '--out',
      at(`${file} alone.wav`),
      '--gain',
      '18',
      '--ceiling',
      '-1',
      '--max-reduction',
      '12',
    );
    expect(err).toBe('');
  }
  sox(
    '-D',
    '-m',
    ...STEMS.flatMap((name) => ['-v', '1', at(`${name} alone.wav`)]),
    '-v',
    '-1',
    at('mix alone.wav'),
    at('left.wav'),
  );
  const leftDb = soxRmsDb(at('left.wav'));
  console.info(`each limited by itself: ${leftDb.toFixed(1)} dB left`);
  expect(leftDb).toBeGreaterThan(-60);
});

test('stems are aligned by their time references, whatever their length', () => {
  const reference = (name: string, from: string, frames: number) =>
    ffmpeg(
      '-i',
      at(`${name}.wav`),
      '-af',
      from,
      '-c:a',
      'pcm_s24le',
      '-write_bext',
      '1',
      '-metadata',
      `time_reference=${frames}`,
      at(`${name} timed.wav`),
    );
  reference('mix', 'anull', 96_000);
  reference('music', 'anull', 96_000);
  reference('noise', 'anull', 96_000);
  // The voice begins a second later in its file, and ends a second sooner: silent there, it would be in the mix.
  sox('-D', at('voice.wav'), at('voice gap.wav'), 'trim', '1', '6', 'pad', '1', '1');
  sox(
    '-D',
    '-m',
    '-v',
    '1',
    at('music.wav'),
    '-v',
    '1',
    at('noise.wav'),
    '-v',
    '1',
    at('voice gap.wav'),
    '-b',
    '24',
    at('mix timed source.wav'),
  );
  ffmpeg(
    '-i',
    at('mix timed source.wav'),
    '-c:a',
    'pcm_s24le',
    '-write_bext',
    '1',
    '-metadata',
    'time_reference=96000',
    '-y',
    at('mix timed.wav'),
  );
  reference('voice', `atrim=1:7`, 96_000 + RATE);
  const { written } = deliver(
    'timed',
    { mix: { file: 'mix timed.wav' }, format: { kind: 'wav', bitDepth: 24 } },
    STEMS.map((name) => ({ file: `${name} timed.wav` })),
  );
  expect(written.residual).toMatchObject({ nulls: true });
  expect(leftBySox('timed')).toBeLessThan(-130);
});

test('padding with room tone is made of one place for all', () => {
  const treatment = {
    gainDb: -3,
    paddingStart: { frames: RATE, kind: 'room-tone' },
    paddingEnd: { frames: RATE, kind: 'room-tone' },
  };
  sox(
    '-D',
    '-n',
    '-r',
    `${RATE}`,
    '-c',
    '2',
    '-b',
    '24',
    at('room.wav'),
    'synth',
    `${SECONDS}`,
    'pinknoise',
    'vol',
    '0.001',
  );
  const spoken = (name: string, from: string) => sox('-D', at(from), at(name), 'trim', '2', '4', 'pad', '2', '2');
  spoken('spoken.wav', 'voice.wav');
  sox('-D', '-m', '-v', '1', at('room.wav'), '-v', '1', at('spoken.wav'), '-b', '24', at('scene.wav'));
  const { written } = deliver(
    'toned',
    { mix: { file: 'scene.wav' }, treatment, format: { kind: 'wav', bitDepth: 24 } },
    [{ file: 'room.wav' }, { file: 'spoken.wav' }],
  );
  expect(written.residual).toMatchObject({ nulls: true });
  expect(leftBySox('toned')).toBeLessThan(-130);
});

test('what can not add up is said before anything is written', () => {
  const refused = (name: string, job: object, stems?: readonly object[]) => {
    const jobFile = at(`${name}.json`);
    const own = { name, spec: 'ebu-r128', mix: { file: 'mix.wav' }, stems: stems ?? [{ file: 'music.wav' }], ...job };
    writeFileSync(jobFile, JSON.stringify({ output: 'out', stems: [own] }));
    const { code, err } = opsimeter('deliver', jobFile);
    expect(code).toBe(2);
    expect(existsSync(at('out', name))).toBe(false);
    return err;
  };
  expect(refused('lossy', { format: { kind: 'mp3' } })).toContain('lossy');
  sox('-D', at('voice.wav'), '-r', '44100', at('voice 44.wav'));
  sox('-D', at('voice.wav'), at('voice mono.wav'), 'remix', '1');
  const wav = { format: { kind: 'wav' } };
  expect(refused('rate', wav, [{ file: 'voice 44.wav' }])).toContain('44.1 kHz, and the mix 48 kHz');
  expect(refused('mono', wav, [{ file: 'voice mono.wav' }])).toContain('mono, and the mix stereo');
  expect(refused('gone', wav, [{ file: 'nothing.wav' }])).toContain('nothing.wav');
});

test('stems that do not add up are written, and it is said that they do not', () => {
  sox('-D', at('voice.wav'), at('voice low.wav'), 'vol', '-1dB');
  const { code, written } = deliver('apart', { format: { kind: 'wav', bitDepth: 24 } }, [
    { file: 'music.wav' },
    { file: 'noise.wav' },
    { file: 'voice low.wav' },
  ]);
  expect(code).toBe(1);
  expect(written.residual).toMatchObject({ nulls: false });
  expect(written.residual.residualDb).toBeCloseTo(leftBySox('apart'), 0);
});
