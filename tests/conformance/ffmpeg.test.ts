/**
 * Side by side with FFmpeg's `ebur128=peak=true`, a general-purpose library's own implementation of ITU-R BS.1770 and
 * EBU Tech 3342, on material generated here.
 *
 * Our true peak may be the higher one. FFmpeg interpolates to 192 kHz with a short filter, whose worst under-read at
 * four times is 0.4 dB near the top of the band. Interpolation without a filter says which of the two is right.
 */
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { channelLayout } from '@/core/loudness/channel-layout';
import { ffmpegLoudness } from '../fixtures/command';
import { fourierTruePeakDbtp } from '../fixtures/fourier-peak';
import { MATERIAL_RATE_HZ, musicLike, quiet, short, speechLike, surround } from '../fixtures/material';
import { measure } from '../fixtures/signals';
import { wavOf } from '../fixtures/wav';

let folder: string;
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'opsimeter-ffmpeg-'));
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** Both read the very same 24-bit samples. */
function both(name: string, channels: Float32Array[], channelMask?: number) {
  const path = join(folder, `${name}.wav`);
  writeFileSync(
    path,
    wavOf(channels, { sampleRateHz: MATERIAL_RATE_HZ, ...(channelMask === undefined ? {} : { channelMask }) }),
  );
  const { round } = Math;
  const quantised = channels.map((samples) => samples.map((x) => round(x * 2 ** 23) / 2 ** 23));
  return {
    ours: measure(quantised, MATERIAL_RATE_HZ, channelMask === undefined ? {} : { channelMask }).readings,
    theirs: ffmpegLoudness(path),
  };
}

/** By transform, once for each material: the two orders of 5.1 are the same samples. */
const truths = new Map<() => Float32Array[], number>();
function truthOf(make: () => Float32Array[]): number {
  const known = truths.get(make) ?? fourierTruePeakDbtp(make());
  truths.set(make, known);
  return known;
}

/** By how much FFmpeg's short filter reads low on this material, whose noise reaches to half the rate. */
const FFMPEG_LOW_DB = 0.4;
/** FFmpeg prints the true peak with one decimal: half of it is the print's own. */
const PRINT = 0.05;

test.each([
  ['music-like', musicLike, undefined],
  ['speech-like, mono', speechLike, undefined],
  ['very quiet', quiet, undefined],
  ['5.1 (side)', surround, 0x60f],
  ['5.1 (back)', surround, 0x3f],
])('%s: integrated within 0.05 LU, range within 0.2 LU, true peak nearer to the truth', (name, make, mask) => {
  const { ours, theirs } = both(name.replaceAll(/\W/g, '-'), make(), mask);
  expect(Math.abs((ours.integratedLufs ?? Number.NaN) - theirs.integratedLufs)).toBeLessThanOrEqual(0.05);
  expect(Math.abs((ours.loudnessRangeLu ?? Number.NaN) - theirs.rangeLu)).toBeLessThanOrEqual(0.2);
  const truth = truthOf(make);
  const peakDifference = (ours.truePeakDbtp ?? Number.NaN) - theirs.truePeakDbtp;
  console.info(
    `${name}: integrated ${ours.integratedLufs?.toFixed(3)} / ${theirs.integratedLufs}, true peak ${ours.truePeakDbtp?.toFixed(3)} / ${theirs.truePeakDbtp}, by transform ${truth.toFixed(3)}`,
  );
  expect(peakDifference).toBeLessThanOrEqual(FFMPEG_LOW_DB + PRINT);
  expect(peakDifference).toBeGreaterThanOrEqual(-PRINT);
  expect(Math.abs((ours.truePeakDbtp ?? Number.NaN) - truth)).toBeLessThanOrEqual(0.19);
  expect(Math.abs((ours.truePeakDbtp ?? Number.NaN) - truth)).toBeLessThanOrEqual(
    Math.abs(theirs.truePeakDbtp - truth) + PRINT,
  );
});

test('7.1: as on 5.1 once the pair behind weighs what FFmpeg gives it', () => {
  // FFmpeg weighs every loudspeaker behind or beside the listener 1.41; ITU-R BS.1770-5 (from memory) only those
  // between 60° and 120°, and so 1.0 for the pair of a 7.1 that stands further back.
  const [left, right, centre, lfe, leftSide, rightSide] = surround() as Float32Array[];
  const behind = [leftSide, rightSide].map((samples) => (samples as Float32Array).map((x) => 0.7 * x));
  const channels = [left, right, centre, lfe, ...behind, leftSide, rightSide] as Float32Array[];
  const { ours, theirs } = both('7-1', channels, 0x63f);
  const layout = channelLayout(8, 0x63f);
  const asFfmpeg = {
    ...layout,
    channels: layout.channels.map((channel, i) => (i === 4 || i === 5 ? { ...channel, weight: 1.41 } : channel)),
  };
  const weighedAlike = measure(channels, MATERIAL_RATE_HZ, { layout: asFfmpeg }).readings;
  expect(Math.abs((weighedAlike.integratedLufs ?? Number.NaN) - theirs.integratedLufs)).toBeLessThanOrEqual(0.05);
  expect(Math.abs((weighedAlike.loudnessRangeLu ?? Number.NaN) - theirs.rangeLu)).toBeLessThanOrEqual(0.2);
  expect(ours.integratedLufs ?? Number.NaN).toBeLessThan(weighedAlike.integratedLufs ?? Number.NaN);
  expect(Math.abs((ours.truePeakDbtp ?? Number.NaN) - theirs.truePeakDbtp)).toBeLessThanOrEqual(FFMPEG_LOW_DB + PRINT);
});

test('under 400 ms there is no integrated loudness, and FFmpeg has none either', () => {
  const { ours, theirs } = both('short', short());
  expect(ours.integratedLufs).toBeNull();
  // It has printed no block, or the floor that it starts from.
  expect(theirs.integratedLufs > -70).toBe(false);
  expect(ours.truePeakDbtp).not.toBeNull();
});

test('where a peak is known, ours is nearer to it', () => {
  // 21 kHz beats against the samples: in the middle of the fade every phase occurs, and the peak is the envelope's, −6.02.
  const samples = Float32Array.from({ length: MATERIAL_RATE_HZ }, (_, n) => {
    const envelope = Math.sin((Math.PI * n) / MATERIAL_RATE_HZ) ** 2;
    return 0.5 * envelope * Math.sin(2 * Math.PI * 21_000.3 * (n / MATERIAL_RATE_HZ));
  });
  const { ours, theirs } = both('known', [samples]);
  const truth = 20 * Math.log10(0.5);
  expect(Math.abs((ours.truePeakDbtp ?? Number.NaN) - truth)).toBeLessThan(0.04);
  expect(theirs.truePeakDbtp - truth).toBeLessThanOrEqual((ours.truePeakDbtp ?? Number.NaN) - truth + PRINT);
});
