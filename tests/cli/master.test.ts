/** What `opsimeter master` does to a file beside its gain, run as a whole process. */
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { music } from '@/cli/demo/synth';
import { opsimeter } from '../fixtures/command';
import { bytesOf, decodedByFfmpeg, firstDifference } from '../fixtures/ffmpeg';
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
  expect(master('--spec-file', at('spec.json'))).toMatchObject({ code: 2, err: expect.stringContaining('not a spec') });
});

test('16 bits are dithered unless that is declined, and digital silence stays it', () => {
  const { out } = master(...R128, '--gain', '0', '--bits', '16');
  const plain = master(...R128, '--gain', '0', '--bits', '16', '--dither', 'none').out;
  const source = samplesOf(at('mix.wav'));
  const error = (path: string) => {
    const [left] = samplesOf(path) as [Float32Array];
    const own = source[0] as Float32Array;
    let sum = 0;
    for (let n = RATE; n < 8 * RATE; n++) sum += ((left[n] as number) - (own[n] as number)) ** 2;
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
    expect(Math.abs(channel[0] as number)).toBeLessThan(2 ** -22);
    expect(Math.abs(channel.at(-1) as number)).toBeLessThan(2 ** -22);
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
  [['--spec-file', 'nowhere.json'], 'not a spec'],
])('%j is refused in words, and nothing is written', (more, words) => {
  const { code, err, out } = master(...R128, ...more);
  expect({ code, err }).toEqual({ code: 2, err: expect.stringContaining(words) });
  expect(existsSync(out)).toBe(false);
});

test('written twice, the same bytes', () => {
  const args = [...R128, '--bits', '16', '--max-reduction', '6', '--fade-out', '1'];
  expect(bytesOf(master(...args).out)).toEqual(new Uint8Array(readFileSync(master(...args).out)));
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
  expect(text).toMatch(/limiter up to \d/);
});

test('as far as the reduction allowed lets it, and no further', () => {
  const { code, said } = master('--spec', 'streaming-music', '--ceiling', '-6', '--max-reduction', '1.5');
  expect(said.maxGainReductionDb).toBeLessThanOrEqual(1.505);
  expect(said.maxGainReductionDb).toBeGreaterThan(1.4);
  expect(said).toMatchObject({ bindingLimit: 'reduction', passes: expect.any(Number) });
  expect(said.shortfallLu).toBeGreaterThan(0);
  expect(code).toBe(1);
});

test('resampled, with room tone around it and a trim: as long as that makes it, and on the target', () => {
  const { out, said } = master(
    ...[...R128, '--rate', '44100', '--head', '0.5', '--tail', '1', '--room-tone', '--link', '50', '--release', '100'],
  );
  const [{ format }] = JSON.parse(opsimeter('measure', out, '--json').out);
  expect(format).toMatchObject({ sampleRateHz: 44_100, frames: 13.5 * 44_100 });
  expect(Math.abs(said.after.integratedLufs + 23)).toBeLessThanOrEqual(0.05);
  const trimmed = master(...R128, '--gain', '0', '--trim', '-2').said;
  expect(trimmed.after.integratedLufs).toBeCloseTo(trimmed.before.integratedLufs - 2, 2);
});
