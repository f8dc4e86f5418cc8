/** What `opsimeter master` does to a file beside its gain, run as a whole process. */
import { spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { music, speech } from '@/cli/demo/synth';
import { opsimeter } from '../fixtures/command';
import { decodedByFfmpeg, firstDifference } from '../fixtures/ffmpeg';
import { wavOf } from '../fixtures/wav';

const RATE = 48_000;
const folder = mkdtempSync(join(tmpdir(), 'opsimeter-master-'));
const at = (name: string) => join(folder, name);
afterAll(() => rmSync(folder, { recursive: true }));

let written = 0;
function master(...args: string[]) {
  const out = at(`out ${++written}.wav`);
  const { code, out: text, err } = opsimeter('master', at('mix.wav'), '--out', out, '--json', ...args);
  return { code, err, out, said: code === 2 ? undefined : JSON.parse(text) };
}
const R128 = ['--spec', 'ebu-r128'];
const samplesOf = (path: string, channels = 2) => decodedByFfmpeg(path, channels);

beforeAll(() => {
  const [left, right] = music(12, RATE, [{ startSeconds: 0, level: 0.5, drums: 0.4 }], 21) as [
    Float32Array,
    Float32Array,
  ];
  const voice = speech(12, RATE, 8);
  writeFileSync(at('voice.wav'), wavOf([voice, voice]));
  writeFileSync(at('mix.wav'), wavOf([left.map((x) => 0.5 * x + 0.01), right.map((x) => 0.4 * x)]));
});

test('a gain of nothing gives the samples back bit for bit; so does 0 dB with a limiter that nothing reaches', () => {
  const source = samplesOf(at('mix.wav'));
  for (const more of [[], ['--max-reduction', '6']]) {
    const { out, said } = master(...R128, '--gain', '0', ...more);
    expect(said).toMatchObject({ gainDb: 0, maxGainReductionDb: 0, bindingLimit: 'asked' });
    expect(firstDifference(samplesOf(out), source)).toBeUndefined();
  }
});

test('a gain that is asked for is the gain that is given, in floats without any rounding', () => {
  const { out, said } = master(...R128, '--gain', '-6', '--bits', '32');
  const source = samplesOf(at('mix.wav'));
  const factor = 10 ** (-6 / 20);
  const expected = source.map((samples) => samples.map((x) => Math.fround(x * factor)));
  expect(firstDifference(samplesOf(out), expected)).toBeUndefined();
  expect(said.after.integratedLufs).toBeCloseTo(said.before.integratedLufs - 6, 3);
});

test('a premaster peaks 6 dB below full scale and is otherwise what it was', () => {
  const { out, said } = master('--premaster');
  expect(said.after.truePeakDbtp).toBeLessThanOrEqual(-6);
  expect(said.after.truePeakDbtp).toBeGreaterThan(-6.02);
  expect(said).toMatchObject({ maxGainReductionDb: 0, bindingLimit: 'ceiling' });
  const factor = 10 ** (said.gainDb / 20);
  const expected = samplesOf(at('mix.wav')).map((samples) =>
    samples.map((x) => Math.round(x * factor * 2 ** 23) / 2 ** 23),
  );
  expect(firstDifference(samplesOf(out), expected)).toBeUndefined();
});

test.each([
  ['--max-reduction', '3'],
  ['--dither', 'tpdf'],
  ['--gain', '1'],
])('a premaster takes no %s', (...more) => {
  expect(master('--premaster', ...more)).toMatchObject({ code: 2, err: expect.stringContaining('only turned down') });
});

test('another ceiling than the spec’s is kept', () => {
  const { said } = master('--spec', 'streaming-music', '--ceiling', '-3', '--max-reduction', '12');
  expect(said.after.truePeakDbtp).toBeLessThanOrEqual(-3);
  expect(said.maxGainReductionDb).toBeGreaterThan(0);
});

test('a spec of one’s own, from a file', () => {
  const [spec] = JSON.parse(opsimeter('specs', '--json').out);
  writeFileSync(at('spec.json'), JSON.stringify({ ...spec, id: 'ours', loudness: { ...spec.loudness, target: -27 } }));
  const { said, code } = master('--spec-file', at('spec.json'));
  expect(code).toBe(0);
  expect(Math.abs(said.after.integratedLufs + 27)).toBeLessThan(0.05);
  writeFileSync(at('spec.json'), '{"id": "no spec"}');
  expect(master('--spec-file', at('spec.json'))).toMatchObject({
    code: 2,
    err: expect.stringContaining('not a readable spec'),
  });
});

test('16 bits are dithered unless that is declined, and digital silence stays it', () => {
  const { out } = master(...R128, '--gain', '0', '--bits', '16');
  const plain = master(...R128, '--gain', '0', '--bits', '16', '--dither', 'none').out;
  const source = samplesOf(at('mix.wav'));
  const error = (path: string) => {
    const [left] = samplesOf(path) as [Float32Array];
    const own = source[0] as Float32Array;
    let sum = 0;
    for (let n = RATE; n < 8 * RATE; n++) sum += ((left[n] ?? Number.NaN) - (own[n] ?? Number.NaN)) ** 2;
    // In steps of 16 bits, squared.
    return (sum / (7 * RATE)) * 2 ** 30;
  };
  expect(10 * Math.log10(error(out) * 4)).toBeCloseTo(0, 0);
  expect(10 * Math.log10(error(plain) * 12)).toBeCloseTo(0, 0);
  expect(JSON.parse(opsimeter('measure', out, '--json').out)[0].format).toMatchObject({ bitDepth: 16 });
});

test('what is kept is what is between, faded to silence at both ends, and on the target all the same', () => {
  const { out, said, code } = master(
    ...[...R128, '--start', '1.5', '--end', '0:09', '--fade-in', '0.5', '--fade-out', '2', '--fade-shape', 's-curve'],
  );
  expect(code).toBe(0);
  const samples = samplesOf(out);
  expect(samples[0]).toHaveLength(7.5 * RATE);
  for (const channel of samples) {
    expect(Math.abs(channel[0] ?? Number.NaN)).toBeLessThan(2 ** -22);
    expect(Math.abs(channel.at(-1) ?? Number.NaN)).toBeLessThan(2 ** -22);
  }
  expect(Math.abs(said.after.integratedLufs + 23)).toBeLessThanOrEqual(0.05);
});

test('channels are mixed, and means taken off, before anything is worked out', () => {
  const mono = master(...R128, '--channels', 'mono-6', '--remove-dc');
  expect(JSON.parse(opsimeter('measure', mono.out, '--json').out)[0].format).toMatchObject({ channels: 1 });
  expect(Math.abs(mono.said.after.integratedLufs + 23)).toBeLessThanOrEqual(0.05);
  expect(Math.abs(mono.said.after.perChannel[0].dcOffset)).toBeLessThan(1e-6);
  expect(Math.abs(mono.said.before.perChannel[0].dcOffset)).toBeLessThan(1e-6);
  const swapped = samplesOf(master(...R128, '--gain', '0', '--channels', 'swapped').out);
  const [left, right] = samplesOf(at('mix.wav')) as [Float32Array, Float32Array];
  expect(firstDifference(swapped, [right, left])).toBeUndefined();
});

test.each([
  [['--bits', '20'], '--bits is one of 16, 24, 32'],
  [['--dither', 'blue'], '--dither is one of'],
  [['--start', 'soon'], '--start is a time'],
  [['--start', '9', '--end', '8'], 'Nothing is left'],
  [['--gain', '99'], '--gain is a number from -60 to 60'],
  [['--ceiling', '1'], '--ceiling is a number from -12 to 0'],
  [['--channels', 'all'], '--channels is one of'],
  [['--spec-file', 'nowhere.json'], 'not a readable spec'],
])('%j is refused in words, and nothing is written', (more, words) => {
  const { code, err, out } = master(...R128, ...more);
  expect({ code, err }).toEqual({ code: 2, err: expect.stringContaining(words) });
  expect(existsSync(out)).toBe(false);
});

/** A file but for when it says that it was written (EBU Tech 3285: ten characters and eight, from memory). */
function undated(path: string): Uint8Array {
  const bytes = readFileSync(path);
  bytes.fill(0, bytes.indexOf('bext') + 8 + 320, bytes.indexOf('bext') + 8 + 338);
  return new Uint8Array(bytes);
}

test('written twice, the same bytes but for the time', () => {
  const args = [...R128, '--bits', '16', '--max-reduction', '6', '--fade-out', '1'];
  expect(undated(master(...args).out)).toEqual(undated(master(...args).out));
});

test('named as an AIFF, it is one', () => {
  const out = at('master.aiff');
  expect(opsimeter('master', at('mix.wav'), ...R128, '--out', out, '--bits', '16').code).toBe(0);
  const [{ format, readings }] = JSON.parse(opsimeter('measure', out, '--json').out);
  expect(format).toMatchObject({ container: 'AIFF', bitDepth: 16 });
  expect(readings.integratedLufs).toBeCloseTo(-23, 1);
});

test('the plan is printed, then how far it is, and then what was and what has become of it', () => {
  const out = at('said.wav');
  const { code, out: text } = opsimeter(
    ...['master', at('mix.wav'), '--spec', 'streaming-music', '--ceiling', '-3', '--max-reduction', '12', '--out', out],
  );
  const lines = text.split('\n');
  const at0 = (pattern: RegExp) => lines.findIndex((line) => pattern.test(line));
  const [plan, writing, after] = [/^ {2}plan: Gain \+.* · Limiter at −3.0 dBTP/, /^ {2}writing: /, /→ .*LUFS/].map(
    at0,
  ) as [number, number, number];
  expect({ plan: plan >= 0, code }).toEqual({ plan: true, code: 0 });
  expect(writing === -1 || writing > plan).toBe(true);
  expect(after).toBeGreaterThan(plan);
  expect(text).toMatch(/Integrated +−\d+\.\d LUFS → −14\.0 LUFS/);
  expect(text).toMatch(/limiter at −3\.0 dBTP up to \d/);
});

test('as far as the reduction allowed lets it, and no further', () => {
  const { code, said } = master('--spec', 'streaming-music', '--ceiling', '-6', '--max-reduction', '1.5');
  expect(said.maxGainReductionDb).toBeLessThanOrEqual(1.505);
  expect(said.maxGainReductionDb).toBeGreaterThan(1.4);
  expect(said).toMatchObject({ bindingLimit: 'reduction', passes: expect.any(Number) });
  expect(said.shortfallLu).toBeGreaterThan(0);
  expect(code).toBe(1);
  const slower = ['--spec', 'streaming-music', '--max-reduction', '1.5', '--look-ahead', '5', '--release', '200'];
  const told = opsimeter('master', at('mix.wav'), ...slower, '--ceiling', '-6', '--out', at('slower.wav'));
  expect(told.out).toContain('Limiter at −6.0 dBTP, look-ahead 5 ms, release 200 ms, channels linked');
});

test('resampled, with room tone around it and a trim: as long as that makes it, and on the target', () => {
  const out = at('in its room.wav');
  const { err, out: text } = opsimeter(
    ...[
      'master',
      at('voice.wav'),
      '--out',
      out,
      '--json',
      ...R128,
      '--rate',
      '44100',
      '--padding-start',
      '0.5',
      '--padding-end',
      '1',
      '--room-tone',
      '--link',
      '50',
      '--release',
      '100',
    ],
  );
  expect(err).toBe('');
  const said = JSON.parse(text);
  const [{ format }] = JSON.parse(opsimeter('measure', out, '--json').out);
  expect(format).toMatchObject({ sampleRateHz: 44_100, frames: 13.5 * 44_100 });
  expect(Math.abs(said.after.integratedLufs + 23)).toBeLessThanOrEqual(0.05);
  // Music that never falls silent has no room to take it from.
  const none = master(...R128, '--padding-start', '0.5', '--room-tone');
  expect(none.code).toBe(2);
  expect(none.err).toContain('room tone');
  const trimmed = master(...R128, '--gain', '0', '--output-gain', '-2').said;
  expect(trimmed.after.integratedLufs).toBeCloseTo(trimmed.before.integratedLufs - 2, 2);
});

test.each([
  ['out.mp3', ['--bitrate', '192', '--rate', '44100'], { codec: 'MP3', sampleRateHz: 44_100, frames: 12 * 44_100 }],
  ['out.flac', ['--bits', '16'], { codec: 'FLAC', bitDepth: 16, frames: 12 * RATE }],
  ['out.opus', ['--bitrate', '96', '--mode', 'constant'], { codec: 'Opus', frames: 12 * RATE }],
  ['out.m4a', [], { codec: 'AAC', sampleRateHz: RATE }],
  ['out.aiff', ['--bits', '32'], { container: 'AIFF-C', bitDepth: 32 }],
])('%s is written as what its name ends in, and lands on the target', (name, more, format) => {
  const out = at(name);
  const { code, out: text } = opsimeter('master', at('mix.wav'), ...R128, '--out', out, '--json', ...more);
  expect(code).toBe(0);
  const said = JSON.parse(text);
  expect(said.format).toMatchObject(format);
  expect(Math.abs(said.after.integratedLufs + 23)).toBeLessThanOrEqual(0.1);
  expect(readdirSync(folder).filter((own) => own.includes('.part'))).toEqual([]);
});

test.each([
  ['out.txt', [], /--out ends in one of \.wav, \.aiff, \.flac/],
  ['a.opus', ['--rate', '44100'], /Opus is not written at 44\.1 kHz. The nearest that is supported: at 48 kHz/],
  ['a.mp3', ['--bitrate', '200'], /not written with 200 kbit\/s/],
  ['a.wav', ['--mode', 'variable'], /no bit rate to choose/],
])('%s with %j can not be, and says what can', (name, more, words) => {
  const { code, err } = opsimeter('master', at('mix.wav'), ...R128, '--out', at(name), ...more);
  expect({ code, err }).toEqual({ code: 2, err: expect.stringMatching(words) });
  expect(existsSync(at(name))).toBe(false);
});

test('where the disk takes no more, that is said, and nothing half-written is left', () => {
  for (const name of ['full.wav', 'full.mp3']) {
    // A file may grow to 1 MB here, and no further: the writer fails in the middle.
    const line = `ulimit -f 1000; exec "${process.execPath}" bin/opsimeter.mjs master "$@"`;
    const { status, stderr } = spawnSync('bash', ['-c', line, 'bash', at('mix.wav'), ...R128, '--out', at(name)]);
    expect(status).toBe(2);
    expect(stderr.toString()).toMatch(/could not be written \(it is larger than this disk or user may hold\)/);
    expect(readdirSync(folder).filter((own) => own.startsWith('full'))).toEqual([]);
  }
});
