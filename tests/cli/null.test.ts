/** `opsimeter null`: stems that SoX has cut, shifted, inverted and mixed, told apart by the command. */
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { opsimeter } from '../fixtures/command';
import { ffmpeg, sox } from '../fixtures/ffmpeg';
import { musicLike, speechLike } from '../fixtures/material';
import { wavOf } from '../fixtures/wav';

const RATE = 48_000;
const SECONDS = 12;

let folder: string;
const at = (name: string) => join(folder, name);
const STEMS = ['music', 'voice', 'noise'] as const;
const stems = (replaced: Partial<Record<(typeof STEMS)[number], string>> = {}) =>
  STEMS.map((name) => at(`${replaced[name] ?? name}.wav`));

beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'opsimeter-null-'));
  const music = musicLike().map((samples) => samples.slice(0, SECONDS * RATE).map((x) => 0.5 * x));
  const [voice = new Float32Array()] = speechLike().map((samples) =>
    samples.slice(0, SECONDS * RATE).map((x) => 0.4 * x),
  );
  writeFileSync(at('music.wav'), wavOf(music));
  writeFileSync(at('voice.wav'), wavOf([voice, voice]));
  sox(
    '-D',
    '-n',
    '-r',
    String(RATE),
    '-c',
    '2',
    '-b',
    '24',
    at('noise.wav'),
    'synth',
    String(SECONDS),
    'pinknoise',
    'vol',
    '0.1',
  );
  // SoX adds the stems up: in 32 bits, so that nothing is rounded but the file.
  sox('-D', '-m', ...stems().flatMap((path) => ['-v', '1', path]), '-b', '24', at('mix.wav'));
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

function nullTest(files: readonly string[], ...options: string[]) {
  const { code, out, err } = opsimeter('null', ...files, '--json', ...options);
  expect(err).toBe('');
  return { code, reading: JSON.parse(out) };
}

test('stems that SoX has mixed null, at 24 bits to the rounding of the mix', () => {
  const { code, reading } = nullTest([at('mix.wav'), ...stems()]);
  expect(code).toBe(0);
  expect(reading).toMatchObject({ nulls: true, alignedBy: 'start', places: [], faults: [], sampleRateHz: RATE });
  expect(reading.greatestResidualDb ?? -200).toBeLessThan(-140);
  expect(reading.stems).toEqual(stems().map((file) => ({ file, gainDb: 0, delayFrames: 0, isInverted: false })));
});

test.each<[string, (typeof STEMS)[number], string[], object]>([
  ['muted', 'voice', [], {}],
  ['shifted', 'music', ['pad', '480s', 'trim', '0', `${SECONDS * RATE}s`], { delayFrames: -480 }],
  ['inverted', 'voice', ['vol', '-1'], {}],
  ['gain', 'noise', ['vol', '-3dB'], { gainDb: expect.closeTo(3, 2) }],
  ['processed', 'music', ['treble', '+4'], {}],
])('a stem that SoX has changed is named: %s', (kind, stem, effects, more) => {
  const path = at(`${kind}.wav`);
  if (kind === 'muted') {
    sox('-D', at('voice.wav'), at('head.wav'), 'trim', '0', '5', 'pad', '0', '3');
    sox('-D', at('voice.wav'), at('rest.wav'), 'trim', '8');
    sox('-D', at('head.wav'), at('rest.wav'), path);
  } else sox('-D', at(`${stem}.wav`), path, ...effects);
  const { code, reading } = nullTest([at('mix.wav'), ...stems({ [stem]: kind })]);
  expect(code).toBe(1);
  expect(reading.nulls).toBe(false);
  expect(reading.faults[0]).toMatchObject({
    kind,
    stem: path,
    message: expect.stringContaining(`${kind}.wav`),
    ...more,
  });
});

test('a stem that is missing is missed; one that was given twice is named', () => {
  const missing = nullTest([at('mix.wav'), at('music.wav'), at('voice.wav')]);
  expect(missing.reading.faults).toMatchObject([{ kind: 'missing', message: expect.stringContaining('in no stem') }]);
  sox('-D', at('voice.wav'), at('again.wav'));
  const twice = nullTest([at('mix.wav'), ...stems(), at('again.wav')]);
  expect(twice.reading.faults).toMatchObject([{ kind: 'twice', stem: at('again.wav'), twin: at('voice.wav') }]);
});

test('FLAC and AIFF null as WAV does, and 16 bits to their rounding', () => {
  ffmpeg('-i', at('music.wav'), at('music-flac.flac'));
  ffmpeg('-i', at('noise.wav'), '-c:a', 'pcm_s24be', at('noise.aiff'));
  expect(nullTest([at('mix.wav'), at('music-flac.flac'), at('voice.wav'), at('noise.aiff')]).reading.nulls).toBe(true);
  for (const name of ['mix', ...STEMS]) sox('-D', at(`${name}.wav`), '-b', '16', at(`${name}16.wav`));
  const coarse = nullTest([at('mix16.wav'), ...stems({ music: 'music16', voice: 'voice16', noise: 'noise16' })]);
  expect(coarse.reading).toMatchObject({ nulls: true, toleranceDb: -80 });
});

test('files that state a time are aligned by it, unless their first frames are asked for', () => {
  for (const [name, frames] of [
    ['mix', 48_000],
    ['music', 48_000],
    ['noise', 48_000],
    ['voice', 48_000 + 9600],
  ] as const) {
    const trim = name === 'voice' ? ['-ss', '0.2'] : [];
    ffmpeg(
      ...trim,
      '-i',
      at(`${name}.wav`),
      '-c:a',
      'pcm_s24le',
      '-write_bext',
      '1',
      '-metadata',
      `time_reference=${frames}`,
      at(`${name}-bext.wav`),
    );
  }
  const files = [at('mix-bext.wav'), ...stems({ music: 'music-bext', voice: 'voice-bext', noise: 'noise-bext' })];
  const { reading } = nullTest(files);
  expect(reading.alignedBy).toBe('time-reference');
  // The first 200 ms of the voice were cut off.
  expect(reading.places.every(({ endFrame }: { endFrame: number }) => endFrame <= 9600)).toBe(true);
  const fromStart = nullTest(files, '--from-start');
  expect(fromStart.reading).toMatchObject({ alignedBy: 'start', nulls: false });
});

test('what can not be compared is refused in words', () => {
  sox('-D', at('voice.wav'), '-r', '44100', at('other-rate.wav'));
  sox('-D', at('voice.wav'), '-c', '1', at('mono.wav'));
  expect(opsimeter('null', at('mix.wav'), at('other-rate.wav'))).toMatchObject({
    code: 2,
    err: expect.stringContaining('44.1 kHz'),
  });
  expect(opsimeter('null', at('mix.wav'), at('mono.wav'))).toMatchObject({
    code: 2,
    err: expect.stringContaining('1 channel'),
  });
  expect(opsimeter('null', at('mix.wav'))).toMatchObject({
    code: 2,
    err: expect.stringContaining('at least one stem'),
  });
});

test('for people: what is left, where, and what it looks like', () => {
  const { code, out } = opsimeter('null', at('mix.wav'), ...stems({ voice: 'inverted' }));
  expect(code).toBe(1);
  expect(out).toMatch(/^mix\.wav − 3 stems, aligned by first frame\n {2}▲ does not null: −\d+\.\d dBFS is left/);
  expect(out).toMatch(/▲ 0:0\d\.\d00 – .*: inverted\.wav has inverted polarity\./);
});
