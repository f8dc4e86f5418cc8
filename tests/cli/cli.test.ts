/** The headless command, run as a whole process. `npm run build` must have been run. */
import { createHash } from 'node:crypto';
import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { SPECS } from '@/core/spec/catalogue';
import { ffmpegLoudness, opsimeter } from '../fixtures/command';
import { ffmpeg } from '../fixtures/ffmpeg';
import { tone } from '../fixtures/signals';
import { buildWav, interleave, wavOf } from '../fixtures/wav';

const RATE = 48_000;
let folder: string;
const at = (name: string) => join(folder, name);

const loud = tone(
  [
    { seconds: 3, levelDbfs: -14 },
    { seconds: 5, levelDbfs: -8 },
  ],
  RATE,
  997,
);
/** Quiet, with one peak that stops the gain. */
const peaky = tone([{ seconds: 8, levelDbfs: -36 }], RATE, 997);
peaky[200_000] = 0.7;

beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'opsimeter-cli-'));
  writeFileSync(at('loud.wav'), wavOf([loud, loud]));
  writeFileSync(at('peaky.wav'), wavOf([peaky, peaky], { bits: 16 }));
  writeFileSync(at('silent.wav'), wavOf([new Float32Array(RATE)]));
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

test('measure --json gives format, readings and findings of every file', () => {
  const { code, out, err } = opsimeter('measure', at('loud.wav'), at('silent.wav'), '--json');
  expect({ code, err }).toEqual({ code: 0, err: '' });
  const [first, second] = JSON.parse(out);
  expect(first).toMatchObject({
    file: at('loud.wav'),
    format: {
      container: 'WAV',
      codec: 'PCM',
      sampleRateHz: RATE,
      bitDepth: 24,
      sampleFormat: 'integer',
      channels: 2,
      layout: 'stereo',
      frames: 8 * RATE,
      durationSeconds: 8,
    },
    readings: { clippedRuns: 0, perChannel: [{ dcOffset: expect.any(Number) }, { truePeakDbtp: expect.any(Number) }] },
    // A tone in both channels that nobody fades.
    findings: [{ code: 'same-channels' }, { code: 'click-at-edge' }, { code: 'ends-sounding' }],
  });
  expect(first.readings.truePeakDbtp).toBeCloseTo(-8, 2);
  expect(first.sha256).toBeUndefined();
  expect(second.readings).toMatchObject({ integratedLufs: null, truePeakDbtp: null, rmsDbfs: null });
  expect(second.findings[0]).toMatchObject({ code: 'silent', message: expect.any(String) });
  expect(out).not.toMatch(/NaN|Infinity/);
});

test('a compressed file is measured and mastered as what it was decoded to, and told as what it is', () => {
  ffmpeg('-i', at('loud.wav'), '-c:a', 'flac', at('loud.flac'));
  ffmpeg('-i', at('loud.wav'), '-c:a', 'libmp3lame', '-b:a', '128k', at('loud.mp3'));
  const [wav, flac, mp3] = JSON.parse(
    opsimeter('measure', at('loud.wav'), at('loud.flac'), at('loud.mp3'), '--json').out,
  );
  expect(flac).toMatchObject({ file: at('loud.flac'), format: { container: 'FLAC', bitDepth: 24, frames: 8 * RATE } });
  expect(flac.readings).toEqual(wav.readings);
  expect(flac.sizeBytes).toBe(statSync(at('loud.flac')).size);
  expect(mp3).toMatchObject({ format: { codec: 'MP3', bitDepth: null, bitRateBps: 128_000, frames: 8 * RATE } });
  expect(mp3.findings).toContainEqual(expect.objectContaining({ code: 'lossy-source' }));
  const { code, out } = opsimeter(
    'master',
    at('loud.mp3'),
    '--spec',
    'ebu-r128',
    '--out',
    at('from-mp3.wav'),
    '--json',
  );
  expect([code, JSON.parse(out).verdict.inside]).toEqual([0, true]);
});

test('measure for people has units, and a true minus', () => {
  const { code, out } = opsimeter('measure', at('loud.wav'));
  expect(code).toBe(0);
  expect(out).toMatch(/Integrated +−\d+\.\d LUFS/);
  expect(out).toMatch(/RMS .* dBFS \(re full-scale peak\)/);
});

test('check exits 0 when all are inside and 1 when one misses, and says by what', () => {
  const quiet = tone([{ seconds: 5, levelDbfs: -23 }], RATE);
  writeFileSync(at('inside.wav'), wavOf([quiet, quiet]));
  expect(opsimeter('check', at('inside.wav'), '--spec', 'ebu-r128').code).toBe(0);
  const { code, out } = opsimeter('check', at('inside.wav'), at('loud.wav'), '--spec', 'ebu-r128', '--json');
  expect(code).toBe(1);
  const [inside, outside] = JSON.parse(out);
  expect(inside.verdict.inside).toBe(true);
  expect(outside.verdict.items[0]).toMatchObject({
    name: 'Integrated',
    required: '−23.0 ±0.5 LUFS',
    inside: false,
    state: 'over',
    measured: outside.readings.integratedLufs,
  });
});

test('master writes a file that lands on the spec, measured again as written; FFmpeg agrees', () => {
  const { code, out } = opsimeter('master', at('loud.wav'), '--spec', 'ebu-r128', '--out', at('master.wav'), '--json');
  expect(code).toBe(0);
  const result = JSON.parse(out);
  expect(result).toMatchObject({ maxGainReductionDb: 0, bindingLimit: 'target', verdict: { inside: true } });
  expect(Math.abs(result.after.integratedLufs + 23)).toBeLessThan(0.01);
  expect(result.after.integratedLufs - result.before.integratedLufs).toBeCloseTo(result.gainDb, 2);
  expect(result.sha256).toBe(
    createHash('sha256')
      .update(readFileSync(at('master.wav')))
      .digest('hex'),
  );
  expect(Math.abs(ffmpegLoudness(at('master.wav')).integratedLufs + 23)).toBeLessThanOrEqual(0.1);
  const [again] = JSON.parse(opsimeter('measure', at('master.wav'), '--json').out);
  expect(again.readings).toEqual(result.after);
  expect(again.format).toMatchObject({ bitDepth: 24, frames: 8 * RATE });
});

test('master stops at the ceiling, says how far short that is, and exits 1', () => {
  const { code, out } = opsimeter('master', at('peaky.wav'), '--spec', 'ebu-r128', '--out', at('short.wav'), '--json');
  expect(code).toBe(1);
  const result = JSON.parse(out);
  expect(result.bindingLimit).toBe('ceiling');
  expect(result.after.truePeakDbtp).toBeLessThanOrEqual(-1 + 0.001);
  expect(result.after.truePeakDbtp).toBeGreaterThan(-1.02);
  expect(result.shortfallLu).toBeCloseTo(-23 - result.after.integratedLufs, 2);
  expect(result.verdict.items[0]).toMatchObject({ state: 'under' });
  expect(opsimeter('master', at('peaky.wav'), '--spec', 'ebu-r128', '--out', at('short2.wav')).out).toMatch(
    /the ceiling stops the gain \d+\.\d LU short of the target/,
  );
});

test('master never overwrites, and leaves no part behind when it fails', () => {
  writeFileSync(at('kept.wav'), 'precious');
  const { code, err } = opsimeter('master', at('loud.wav'), '--spec', 'ebu-r128', '--out', at('kept.wav'));
  expect(code).toBe(2);
  expect(err).toMatch(/already exists/);
  expect(readFileSync(at('kept.wav'), 'utf8')).toBe('precious');
  expect(opsimeter('master', at('loud.wav'), '--spec', 'ebu-r128', '--out', at('no/such/folder.wav'))).toMatchObject({
    code: 2,
    err: expect.stringContaining('its folder does not exist'),
  });
  expect(opsimeter('master', at('silent.wav'), '--spec', 'ebu-r128', '--out', at('s.wav'))).toMatchObject({
    code: 2,
    err: expect.stringContaining('No gain can be calculated'),
  });
  expect(readdirSync(folder).filter((name) => name.endsWith('.part'))).toEqual([]);
  expect(existsSync(at('s.wav'))).toBe(false);
});

test('specs lists every spec', () => {
  expect(JSON.parse(opsimeter('specs', '--json').out)).toEqual(SPECS);
  expect(opsimeter('specs').out.trim().split('\n')).toHaveLength(SPECS.length);
});

test.each([
  [['measure'], /No file was named/],
  [['check', 'x.wav'], /--spec ID is missing/],
  [['check', 'x.wav', '--spec', 'nonsense'], /no spec "nonsense"/],
  [['master', 'a.wav', 'b.wav', '--spec', 'ebu-r128', '--out', 'c.wav'], /one file at a time/],
  [['master', 'a.wav', '--spec', 'ebu-r128'], /--out FILE is missing/],
  [['meassure', 'a.wav'], /no command "meassure"/],
  [['measure', 'a.wav', '--loud'], /--loud/],
  [[], /No command/],
])('%j exits 2 with one line', (args, words) => {
  const { code, out, err } = opsimeter(...args);
  expect({ code, out }).toEqual({ code: 2, out: '' });
  expect(err.trim().split('\n')).toHaveLength(1);
  expect(err).toMatch(words);
});

test('--help exits 0 and lists the commands', () => {
  const { code, out } = opsimeter('--help');
  expect(code).toBe(0);
  for (const command of ['measure', 'check', 'master', 'specs']) expect(out).toMatch(new RegExp(`^  ${command} `, 'm'));
});

test('a file is hashed as well where that is asked for', () => {
  const [measured] = JSON.parse(opsimeter('measure', at('loud.wav'), '--json', '--sha256').out);
  const hash = createHash('sha256').update(readFileSync(at('loud.wav')));
  expect(measured.sha256).toBe(hash.digest('hex'));
});

test('a layout can be chosen by hand; one that does not exist is a mistake of usage', () => {
  const path = at('six.wav');
  const silent = new Float32Array(loud.length);
  // The fourth channel is the LFE of a usual 5.1, and the left surround of one in film order.
  writeFileSync(path, wavOf([silent, silent, silent, loud, silent, silent]));
  const [usual] = JSON.parse(opsimeter('measure', path, '--json').out);
  const [film] = JSON.parse(opsimeter('measure', path, '--json', '--layout', '5.1-film').out);
  expect(usual).toMatchObject({ format: { layout: '5.1' }, readings: { integratedLufs: null } });
  expect(film.format.layout).toBe('5.1 in film order');
  expect(film.readings.integratedLufs).not.toBeNull();
  expect(film.readings.truePeakDbtp).toBe(usual.readings.truePeakDbtp);
  expect(opsimeter('measure', path, '--layout', '9.9')).toMatchObject({ code: 2, err: expect.stringContaining('5.1') });
});

test('a two-hour file is measured in under 120 MB, on all threads', () => {
  // Mostly silence, so that the test is about memory and takes little time.
  const minute = new Float32Array(60 * RATE);
  minute.set(loud.subarray(0, RATE), 30 * RATE);
  const piece = interleave([minute, minute], 24);
  const path = at('two-hours.wav');
  writeFileSync(path, buildWav({ bits: 24, statedDataBytes: piece.length * 120 }));
  for (let i = 0; i < 120; i++) writeFileSync(path, piece, { flag: 'a' });
  const { code, out, peakKilobytes } = opsimeter('measure', path, '--json');
  rmSync(path);
  expect(code).toBe(0);
  expect(JSON.parse(out)[0].format.durationSeconds).toBe(7200);
  console.info(`two hours: ${(peakKilobytes / 1000).toFixed(0)} MB resident at most`);
  expect(peakKilobytes).toBeGreaterThan(10_000);
  expect(peakKilobytes).toBeLessThan(120_000);
});

// Three minutes are 69 MB as they are decoded: more than is left beside what any measuring takes.
test.each([
  ['long.aiff', ['-c:a', 'pcm_s24be']],
  ['long.rf64.wav', ['-c:a', 'pcm_f64le', '-rf64', 'always']],
  ['long.flac', ['-c:a', 'flac']],
  ['long.m4a', ['-c:a', 'alac']],
  ['long.wv', ['-c:a', 'wavpack']],
  ['long.mp3', ['-c:a', 'libmp3lame', '-b:a', '128k']],
  ['long.aac.m4a', ['-c:a', 'aac', '-b:a', '96k']],
  ['long.opus', ['-c:a', 'libopus', '-b:a', '96k']],
  ['long.ogg', ['-c:a', 'libvorbis']],
  ['long.mp2', ['-c:a', 'mp2']],
  ['long.ac3', ['-c:a', 'ac3']],
  ['long.caf', ['-c:a', 'pcm_s24le']],
  ['long.mka', ['-c:a', 'flac']],
])('%s is measured in under 120 MB', (file, args) => {
  ffmpeg('-f', 'lavfi', '-i', 'sine=f=300:r=48000:d=180,volume=-9dB', '-ac', '2', ...args, at(file));
  const { code, out, peakKilobytes } = opsimeter('measure', at(file), '--json');
  rmSync(at(file));
  expect(code).toBe(0);
  expect(JSON.parse(out)[0].format.durationSeconds).toBeCloseTo(180, 0);
  expect(peakKilobytes).toBeLessThan(120_000);
});

test('measure --json tells what files carry, and where findings are', () => {
  const samples = loud.slice();
  samples.fill(1, 48_000, 48_008);
  writeFileSync(at('cut.wav'), wavOf([samples, loud]));
  ffmpeg('-i', at('cut.wav'), '-c:a', 'pcm_s24le', '-write_bext', '1', '-metadata', 'description=Hall', at('bext.wav'));
  const [{ metadata, findings }] = JSON.parse(opsimeter('measure', at('bext.wav'), '--json').out);
  expect(metadata.tags).toContainEqual({ name: 'Description', value: 'Hall' });
  expect(metadata.chunks.map(({ id }: { id: string }) => id)).toEqual(expect.arrayContaining(['bext', 'fmt ', 'data']));
  expect(findings[0]).toMatchObject({
    code: 'clipped-runs',
    places: [{ startFrame: 48_000, frames: 8, channel: 'L' }],
  });
  const moving = ['-f', 'lavfi', '-i', 'color=s=64x64:r=25:d=1', '-c:v', 'mpeg4', '-timecode', '10:00:00:12'];
  ffmpeg('-i', at('cut.wav'), ...moving, at('reel.mov'));
  const [reel] = JSON.parse(opsimeter('measure', at('reel.mov'), '--json').out);
  expect(reel.metadata).toMatchObject({
    picture: { codec: 'MPEG-4 Visual', widthPx: 64, heightPx: 64, framesPerSecond: 25 },
    timeCode: { label: '10:00:00:12', rate: '25', pictureFrame: 900_012, offsetFrames: 0 },
  });
});
