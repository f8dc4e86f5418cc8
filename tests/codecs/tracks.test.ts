/** Sound tracks of broadcast and location files, put together: what comes out, held against FFmpeg's decoding of each by itself. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { decode } from '@/codecs/decode';
import { probeMetadata } from '@/codecs/probe';
import { probeTracks } from '@/codecs/tracks';
import { opsimeter } from '../fixtures/command';
import { decodedByFfmpeg, ffmpeg, firstDifference } from '../fixtures/ffmpeg';

const RATE = 48_000;
const folder = mkdtempSync(join(tmpdir(), 'opsimeter-tracks-'));
const at = (name: string) => join(folder, name);
const MOVING = ['-f', 'lavfi', '-i', 'testsrc2=s=160x90:r=25:d=4'];

/** A tone of its own for each track, the first the loudest. */
const tone = (track: number, rateHz = RATE) => [
  '-f',
  'lavfi',
  '-i',
  `sine=f=${200 + 100 * track}:r=${rateHz}:d=4,volume=-${3 * track}dB`,
];
const mapped = (count: number) => [
  '-map',
  '0:v',
  ...Array.from({ length: count }, (_, i) => ['-map', `${i + 1}:a`]).flat(),
];

beforeAll(() => {
  const tones = [1, 2, 3, 4, 5, 6, 7, 8].flatMap((track) => tone(track));
  ffmpeg(...MOVING, ...tones, ...mapped(8), '-c:v', 'mpeg2video', '-c:a', 'pcm_s24le', at('eight.mxf'));
  // Named left and right, of two depths, and the second half a second late.
  const [left, right] = [tone(1), ['-itsoffset', '0.5', ...tone(2)]];
  const named = ['-af:a:0', 'pan=FL|c0=c0', '-af:a:1', 'pan=FR|c0=c0', '-c:a:0', 'pcm_s16le', '-c:a:1', 'pcm_s24le'];
  ffmpeg(...MOVING, ...left, ...right, ...mapped(2), ...named, '-c:v', 'mpeg4', at('named.mov'));
  ffmpeg(
    ...MOVING,
    ...tone(1),
    ...tone(2, 44_100),
    ...mapped(2),
    '-c:v',
    'mpeg4',
    '-c:a',
    'pcm_s16le',
    at('rates.mov'),
  );
});
afterAll(() => rmSync(folder, { recursive: true }));

async function joined(name: string, ...numbers: number[]) {
  const probed = await probeTracks(at(name), name, numbers);
  const output = at(`${name}.${numbers.join('+')}.wav`);
  expect(await decode(at(name), probed, output, name)).toBe(0);
  return { ...probed, samples: decodedByFfmpeg(output, probed.format.channels) };
}

/** One track by itself. */
function track(name: string, number: number): Float32Array {
  ffmpeg('-i', at(name), '-map', `0:a:${number - 1}`, '-c:a', 'pcm_s24le', at('one.wav'));
  return decodedByFfmpeg(at('one.wav'), 1)[0] ?? new Float32Array();
}

test.each([
  ['a stereo pair', [1, 2], 'stereo'],
  ['a pair the other way round', [2, 1], 'stereo'],
  ['six of surround', [3, 4, 5, 6, 7, 8], '5.1'],
])('eight tracks of an MXF: %s, bit for bit', async (_name, numbers, layout) => {
  const { format, samples } = await joined('eight.mxf', ...numbers);
  expect(format).toMatchObject({ channels: numbers.length, layout, bitDepth: 24, container: 'MXF', frames: 4 * RATE });
  expect(format.track).toEqual({ number: numbers[0], of: 8, joined: numbers });
  expect(
    firstDifference(
      samples,
      numbers.map((number) => track('eight.mxf', number)),
    ),
  ).toBeUndefined();
});

test('tracks that are called left and right, of two depths, stay in the order asked for, and a late one is late', async () => {
  const [left, right] = [track('named.mov', 1), track('named.mov', 2)];
  const late = new Float32Array(left.length);
  late.set(right.subarray(0, left.length - RATE / 2), RATE / 2);
  expect(firstDifference((await joined('named.mov', 1, 2)).samples, [left, late])).toBeUndefined();
  const { samples, format } = await joined('named.mov', 2, 1);
  expect(format.bitDepth).toBe(24);
  expect(firstDifference(samples, [late, left])).toBeUndefined();
});

test('sound that is put together begins with the earliest of its tracks', async () => {
  ffmpeg('-i', at('named.mov'), '-map', '0', '-c', 'copy', '-timecode', '01:00:00:00', at('timed.mov'));
  const offsetOf = async (...numbers: number[]) => {
    const { format } = await probeTracks(at('timed.mov'), 'timed.mov', numbers);
    return (await probeMetadata(at('timed.mov'), 'timed.mov', format)).timeCode?.offsetFrames;
  };
  expect(await offsetOf(2)).toBe(RATE / 2);
  expect(await offsetOf(2, 1)).toBe(0);
});

test('tracks tell their language and title', async () => {
  const named = [
    '-metadata:s:a:0',
    'language=eng',
    '-metadata:s:a:1',
    'language=nor',
    '-metadata:s:a:1',
    'title=Effects',
  ];
  ffmpeg(...MOVING, ...tone(1), ...tone(2), ...mapped(2), ...named, '-c:v', 'mpeg4', '-c:a', 'flac', at('named.mkv'));
  const { format } = await probeTracks(at('named.mkv'), 'named.mkv', [1]);
  expect((await probeMetadata(at('named.mkv'), 'named.mkv', format)).tracks).toEqual([
    { number: 1, codec: 'FLAC', sampleRateHz: RATE, channels: 1, language: 'eng', title: null },
    { number: 2, codec: 'FLAC', sampleRateHz: RATE, channels: 1, language: 'nor', title: 'Effects' },
  ]);
});

test('what cannot be put together is said', async () => {
  await expect(probeTracks(at('rates.mov'), 'rates.mov', [1, 2])).rejects.toMatchObject({ code: 'tracks-differ' });
  await expect(probeTracks(at('rates.mov'), 'rates.mov', [1, 3])).rejects.toMatchObject({
    code: 'no-such-track',
    details: { track: 3, of: 2 },
  });
});

test('the command measures, checks and masters the tracks that it is told', () => {
  const read = (...args: string[]) => JSON.parse(opsimeter('measure', at('eight.mxf'), '--json', ...args).out)[0];
  expect(read().format).toMatchObject({ channels: 1, track: { number: 1, of: 8 } });
  expect(read('--tracks', '4').readings.samplePeakDbfs).toBeCloseTo(read().readings.samplePeakDbfs - 9, 1);
  const surround = read('--tracks', '3-8');
  expect(surround.format).toMatchObject({ channels: 6, layout: '5.1' });
  expect(JSON.stringify(surround.findings)).toContain('8 sound tracks; these are tracks 3 + 4 + 5 + 6 + 7 + 8');
  const args = ['--tracks', '1+2', '--spec', 'ebu-r128', '--out', at('pair.wav'), '--json'];
  expect(opsimeter('master', at('eight.mxf'), ...args).code).toBe(0);
  expect(opsimeter('check', at('pair.wav'), '--spec', 'ebu-r128').code).toBe(0);
  const swapped = ['--tracks', '2+1', '--spec', 'ebu-r128', '--out', at('swapped.wav')];
  expect(opsimeter('master', at('eight.mxf'), ...swapped).code).toBe(0);
  const [left, right] = decodedByFfmpeg(at('pair.wav'), 2);
  expect(
    firstDifference(decodedByFfmpeg(at('swapped.wav'), 2).toReversed(), [left, right] as Float32Array[]),
  ).toBeUndefined();

  const { out } = opsimeter('measure', at('eight.mxf'));
  expect(out).toContain('track 8: PCM · 1 channel · 48 kHz');
  expect(out).toContain('usually put together: --tracks 1+2, --tracks 3-8');
  for (const text of ['0', '1+1', '8-3', 'x', '1+', '']) {
    expect(opsimeter('measure', at('eight.mxf'), '--tracks', text)).toMatchObject({
      code: 2,
      err: expect.stringContaining('names no tracks'),
    });
  }
  const joinedFiles = ['measure', at('eight.mxf'), at('pair.wav'), '--joined', '--tracks', '1+2'];
  expect(opsimeter(...joinedFiles)).toMatchObject({ code: 2, err: expect.stringContaining('takes no --tracks') });
  const { code, err } = opsimeter('measure', at('eight.mxf'), '--tracks', '9');
  expect([code, err]).toEqual([2, expect.stringContaining('has no sound track 9: it has 8')]);
  expect(opsimeter('measure', at('pair.wav'), '--tracks', '2').err).toContain('has no sound track 2: it has 1');
});
