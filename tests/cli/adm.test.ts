/** Renderings of audio definitions (ADM), by the command: measured by FFmpeg from samples that were rendered here by hand. */
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type AdmRecipe, admWav } from '../fixtures/adm';
import { ffmpegLoudness, ffmpegTruePeakDbtp, opsimeter } from '../fixtures/command';
import { musicLike } from '../fixtures/material';
import { wavOf } from '../fixtures/wav';

const folder = mkdtempSync(join(tmpdir(), 'opsimeter-adm-'));
afterAll(() => rmSync(folder, { recursive: true }));
const at = (name: string) => join(folder, name);

const RATE = 48_000;
const SECONDS = 12;
const [left, right] = musicLike().map((samples) => samples.slice(0, SECONDS * RATE)) as [Float32Array, Float32Array];
const times = (samples: Float32Array, gain: number) => samples.map((sample) => gain * sample);
const BED = [0.5, 0.5, 0.25, 0.2, 0.3, 0.3].map((gain, i) => times(i % 2 ? right : left, gain));
const OBJECT = times(right, 0.9);
const LABELS = ['M+030', 'M-030', 'M+000', 'LFE1', 'M+110', 'M-110'];
const bedTracks = LABELS.map((label, i) => ({
  channel: i + 1,
  type: 'DirectSpeakers' as const,
  blocks: [{ label, azimuth: [30, -30, 0, 45, 110, -110][i] as number }],
}));
const RECIPE: AdmRecipe = {
  programmes: [
    {
      name: 'Main',
      language: 'en',
      contents: [
        { name: 'Music', objects: [0] },
        { name: 'Effects', objects: [1] },
      ],
    },
    { name: 'Music alone', contents: [{ name: 'Music', objects: [0] }] },
  ],
  objects: [
    { name: 'Bed', tracks: bedTracks },
    {
      // From the left loudspeaker to the right one in four seconds, and then it stays.
      name: 'Comet',
      tracks: [
        {
          channel: 7,
          type: 'Objects',
          blocks: [
            { rtime: '00:00:00.00000', duration: '00:00:02.00000', azimuth: 30 },
            { rtime: '00:00:02.00000', duration: '00:00:04.00000', azimuth: -30 },
            { rtime: '00:00:06.00000', duration: '00:00:06.00000', azimuth: -30, gain: '<gain>0.5</gain>' },
          ],
        },
      ],
      more: '<gain>0.8</gain>',
    },
  ],
};

/** The comet's gain in the left or right loudspeaker at a frame, as its blocks have it. */
function cometGain(frame: number, side: 'left' | 'right'): number {
  const seconds = frame / RATE;
  const share = Math.min(1, Math.max(0, (seconds - 2) / 4));
  const gain = 0.8 * (1 - 0.5 * Math.min(1, Math.max(0, (seconds - 6) / 6)));
  return gain * (side === 'right' ? share : 1 - share);
}

/** Rendered by hand: the bed as it is, and the comet between left and right. */
function renderedByHand(): Float32Array[] {
  return BED.map((samples, c) => {
    if (c > 1) return samples;
    const side = c === 0 ? 'left' : 'right';
    return samples.map((sample, n) => sample + cometGain(n, side) * (OBJECT[n] as number));
  });
}

beforeAll(() => {
  writeFileSync(at('dome.wav'), admWav(RECIPE, [...BED, OBJECT]));
  writeFileSync(at('by-hand.wav'), wavOf(renderedByHand(), { channelMask: 0x3f }));
});

interface Listed {
  format: { layout: string; channels: number };
  readings: { integratedLufs: number; truePeakDbtp: number };
  rendering: { programme: { id: string; name: string }; layout: string };
}

test('every programme is measured for every layout, side by side; 5.1 reads what FFmpeg reads of samples rendered by hand', () => {
  const ran = opsimeter('measure', at('dome.wav'), '--render', 'stereo,5.1,7.1.4', '--json');
  expect(ran.code).toBe(0);
  const listed = JSON.parse(ran.out) as Listed[];
  expect(listed.map(({ rendering, format }) => [rendering.programme.name, rendering.layout, format.channels])).toEqual([
    ['Main', 'stereo', 2],
    ['Main', '5.1', 6],
    ['Main', '7.1.4', 12],
    ['Music alone', 'stereo', 2],
    ['Music alone', '5.1', 6],
    ['Music alone', '7.1.4', 12],
  ]);
  const main = listed[1] as Listed;
  const byFfmpeg = ffmpegLoudness(at('by-hand.wav'));
  expect(Math.abs(main.readings.integratedLufs - byFfmpeg.integratedLufs)).toBeLessThanOrEqual(0.1);
  expect(Math.abs(main.readings.truePeakDbtp - ffmpegTruePeakDbtp(at('by-hand.wav')))).toBeLessThanOrEqual(0.2);
  const table = opsimeter('measure', at('dome.wav'), '--render', 'stereo,5.1,7.1.4').out;
  expect(table).toMatch(/“Main” \(APR_1001\) · programme · en/);
  expect(table).toMatch(/“Comet” \(AO_1002\) · object · channel 7/);
  expect(table).toMatch(/stereo +5\.1 +7\.1\.4/);
});

test('a rendering is written as a master of its own, sample for sample', () => {
  const ran = opsimeter(
    'master',
    at('dome.wav'),
    '--render',
    '5.1',
    '--spec',
    'ebu-r128',
    '--gain',
    '0',
    '--bits',
    '32',
    '--out',
    at('five.wav'),
  );
  expect(ran.err).toBe('');
  const bytes = readFileSync(at('five.wav'));
  const data = bytes.indexOf('data', 12, 'latin1') + 8;
  const hand = renderedByHand();
  let worst = 0;
  for (let n = 0; n < SECONDS * RATE; n += 7) {
    hand.forEach((samples, c) => {
      worst = Math.max(worst, Math.abs(bytes.readFloatLE(data + 4 * (6 * n + c)) - (samples[n] as number)));
    });
  }
  // The source has 24 bits.
  expect(worst).toBeLessThan(2 ** -22);
});

test('several masters of one programme are written in one go, each to its spec', () => {
  const deliveries = (spec: string) => [{ spec, format: { kind: 'wav' } }];
  writeFileSync(
    at('job.json'),
    JSON.stringify({
      output: 'masters',
      name: '{title}',
      programmes: [
        { file: 'dome.wav', title: 'Dome with heights', render: '7.1.4', deliveries: deliveries('ebu-r128') },
        {
          file: 'dome.wav',
          title: 'Dome surround',
          render: '5.1',
          audioProgramme: 'APR_1002',
          deliveries: deliveries('ebu-r128'),
        },
        { file: 'dome.wav', title: 'Dome stereo', render: 'stereo', deliveries: deliveries('streaming-music') },
      ],
    }),
  );
  const ran = opsimeter('deliver', at('job.json'));
  expect([ran.code, ran.err]).toEqual([0, '']);
  for (const [name, lufs] of [
    ['dome-with-heights', -23],
    ['dome-surround', -23],
    ['dome-stereo', -14],
  ] as const) {
    const [report] = JSON.parse(opsimeter('measure', at(`masters/${name}.wav`), '--json').out) as Listed[];
    expect(Math.abs((report?.readings.integratedLufs ?? 0) - lufs)).toBeLessThanOrEqual(0.1);
  }
  expect(Math.abs(ffmpegLoudness(at('masters/dome-stereo.wav')).integratedLufs + 14)).toBeLessThanOrEqual(0.2);
});

test('what is not rendered is told, and costs nothing of the others', () => {
  const objects = RECIPE.objects.map((object) =>
    object.name === 'Comet'
      ? { ...object, tracks: object.tracks.map((track) => ({ ...track, blocks: [{ more: '<width>45</width>' }] })) }
      : object,
  );
  writeFileSync(at('wide.wav'), admWav({ ...RECIPE, objects }, [...BED, OBJECT]));
  const ran = opsimeter('measure', at('wide.wav'), '--render', '5.1', '--json');
  expect(ran.code).toBe(2);
  expect(ran.err).toMatch(
    /“Main” of .* cannot be rendered as it is meant: “Comet 7” has a size \(width, height or depth\)\./,
  );
  expect((JSON.parse(ran.out) as Listed[]).map(({ rendering }) => rendering.programme.name)).toEqual(['Music alone']);
  expect(opsimeter('master', at('wide.wav'), '--render', '5.1', '--spec', 'ebu-r128', '--out', at('no.wav')).code).toBe(
    2,
  );
  expect(
    opsimeter('check', at('dome.wav'), '--render', '5.1', '--audio-programme', 'APR_9', '--spec', 'ebu-r128').err,
  ).toMatch(/Choose one of these: APR_1001, APR_1002\./);
  expect(opsimeter('measure', at('by-hand.wav'), '--render', '5.1').err).toMatch(/no audio definition/);
  expect(opsimeter('measure', at('dome.wav'), '--render', '5.1,9.1.6').err).toMatch(/names no layouts/);
  expect(opsimeter('measure', at('dome.wav'), '--render', '5.1', '--downmix', 'mono').err).toMatch(/takes no --layout/);
});

test('more tracks than are measured as they are can be rendered', () => {
  const tracks = Array.from({ length: 40 }, (_, i) => ({
    channel: i + 1,
    type: 'Objects' as const,
    blocks: [{ azimuth: 30 }],
  }));
  const recipe: AdmRecipe = {
    programmes: [{ name: 'Many', contents: [{ name: 'All', objects: [0] }] }],
    objects: [{ name: 'Forty', tracks }],
  };
  const piece = times(left.slice(0, 4 * RATE), 1 / 40);
  writeFileSync(
    at('many.wav'),
    admWav(
      recipe,
      Array.from({ length: 40 }, () => piece),
    ),
  );
  writeFileSync(at('one.wav'), wavOf([times(left.slice(0, 4 * RATE), 1), new Float32Array(4 * RATE)]));
  const [many] = JSON.parse(opsimeter('measure', at('many.wav'), '--render', 'stereo', '--json').out) as Listed[];
  expect(many?.readings.integratedLufs).toBeCloseTo(ffmpegLoudness(at('one.wav')).integratedLufs, 0);
  expect(opsimeter('measure', at('many.wav')).err).toMatch(/has 40 channels/);
});
