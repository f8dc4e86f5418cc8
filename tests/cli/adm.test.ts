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
function renderedByHand([...tracks]: readonly Float32Array[] = [...BED, OBJECT]): Float32Array[] {
  const comet = tracks.pop() as Float32Array;
  return tracks.map((samples, c) => {
    if (c > 1) return samples;
    const side = c === 0 ? 'left' : 'right';
    return samples.map((sample, n) => sample + cometGain(n, side) * (comet[n] as number));
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

interface WrittenTracks {
  axml: string;
  chna: string;
  tracks: Float32Array[];
  container: string;
}

/** A file's definition and its samples of 24 bits, walked by hand. */
function readTracks(path: string): WrittenTracks {
  const bytes = readFileSync(path);
  const chunks = new Map<string, Buffer>();
  for (let offset = 12; offset + 8 <= bytes.length; ) {
    const id = bytes.toString('latin1', offset, offset + 4);
    const stated = bytes.readUInt32LE(offset + 4);
    const size = stated === 0xffffffff ? Number(chunks.get('ds64')?.readBigUInt64LE(8)) : stated;
    chunks.set(id, bytes.subarray(offset + 8, offset + 8 + size));
    offset += 8 + size + (size % 2);
  }
  const channels = chunks.get('fmt ')?.readUInt16LE(2) ?? 0;
  const data = chunks.get('data') as Buffer;
  const tracks = Array.from({ length: channels }, (_, c) =>
    Float32Array.from(
      { length: data.length / 3 / channels },
      (_, n) => data.readIntLE(3 * (n * channels + c), 3) / 2 ** 23,
    ),
  );
  return {
    axml: chunks.get('axml')?.toString() ?? '',
    chna: chunks.get('chna')?.toString('latin1') ?? '',
    tracks,
    container: bytes.toString('latin1', 0, 4),
  };
}
const withoutLoudness = (axml: string) => axml.replaceAll(/<loudnessMetadata.*?<\/loudnessMetadata>/g, '').trimEnd();
const statedIn = (axml: string, name: string) => Number(new RegExp(`<${name}>(.*?)<`).exec(axml)?.[1]);

test('all tracks are written with the gain of their rendering; the definition stays but for the loudness that it states', () => {
  const stated =
    '<loudnessMetadata loudnessMethod="old"><integratedLoudness>-9.9</integratedLoudness></loudnessMetadata>';
  const programmes = RECIPE.programmes.map((programme, i) => (i === 0 ? { ...programme, more: stated } : programme));
  writeFileSync(at('tracks.wav'), admWav({ ...RECIPE, programmes }, [...BED, OBJECT]));
  const ran = opsimeter(
    'master',
    at('tracks.wav'),
    '--render',
    '5.1',
    '--as-adm',
    '--spec',
    'ebu-r128',
    '--out',
    at('quiet.wav'),
    '--json',
  );
  expect([ran.code, ran.err]).toEqual([0, '']);
  const { gainDb } = JSON.parse(ran.out) as { gainDb: number };
  const [source, written] = [readTracks(at('tracks.wav')), readTracks(at('quiet.wav'))];
  expect(written.container).toBe('BW64');
  expect(written.chna).toBe(source.chna);
  expect(written.axml).not.toContain('-9.9');
  expect(withoutLoudness(written.axml)).toBe(withoutLoudness(source.axml));
  const gain = 10 ** (gainDb / 20);
  let worst = 0;
  written.tracks.forEach((samples, c) => {
    for (const [n, sample] of samples.entries()) {
      worst = Math.max(worst, Math.abs(sample - gain * (source.tracks[c]?.[n] as number)));
    }
  });
  expect(worst).toBeLessThan(2 ** -23);
  // What is rendered by hand of the written tracks, as FFmpeg measures it, is what the definition says.
  writeFileSync(at('quiet-by-hand.wav'), wavOf(renderedByHand(written.tracks), { channelMask: 0x3f }));
  const byFfmpeg = ffmpegLoudness(at('quiet-by-hand.wav'));
  expect(Math.abs(byFfmpeg.integratedLufs + 23)).toBeLessThanOrEqual(0.1);
  expect(Math.abs(statedIn(written.axml, 'integratedLoudness') - byFfmpeg.integratedLufs)).toBeLessThanOrEqual(0.1);
  expect(
    Math.abs(statedIn(written.axml, 'maxTruePeak') - ffmpegTruePeakDbtp(at('quiet-by-hand.wav'))),
  ).toBeLessThanOrEqual(0.2);
  expect(written.axml.match(/<loudnessMetadata/g)).toHaveLength(2);
});

test('a limiter turns all tracks down as one, so that the rendering stays below its ceiling', () => {
  const ran = opsimeter(
    'master',
    at('dome.wav'),
    '--render',
    '5.1',
    '--as-adm',
    '--spec',
    'ebu-r128',
    '--gain',
    '9',
    '--max-reduction',
    '12',
    '--ceiling',
    '-6',
    '--out',
    at('loud.wav'),
    '--json',
  );
  expect(ran.err).toBe('');
  const { maxGainReductionDb } = JSON.parse(ran.out) as { maxGainReductionDb: number };
  expect(maxGainReductionDb).toBeGreaterThan(0.5);
  const [source, written] = [readTracks(at('dome.wav')), readTracks(at('loud.wav'))];
  writeFileSync(at('loud-by-hand.wav'), wavOf(renderedByHand(written.tracks), { channelMask: 0x3f }));
  expect(ffmpegTruePeakDbtp(at('loud-by-hand.wav'))).toBeLessThanOrEqual(-6 + 0.1);
  expect(ffmpegTruePeakDbtp(at('loud-by-hand.wav'))).toBeGreaterThan(-6.5);
  // At every frame each track has been turned by as much as the first.
  let worst = 0;
  const [first, firstWritten] = [source.tracks[0] as Float32Array, written.tracks[0] as Float32Array];
  for (let n = 0; n < first.length; n++) {
    if (Math.abs(first[n] as number) < 0.02) continue;
    const turned = (firstWritten[n] as number) / (first[n] as number);
    written.tracks.forEach((samples, c) => {
      worst = Math.max(worst, Math.abs((samples[n] as number) - turned * (source.tracks[c]?.[n] as number)));
    });
  }
  expect(worst).toBeLessThan(2 ** -16);
});

test('tracks take gain and limiter alone, and a file that holds their definition', () => {
  const refused = (...more: string[]) =>
    opsimeter('master', at('dome.wav'), '--as-adm', '--spec', 'ebu-r128', ...more, '--out', at('refused.wav'));
  expect(refused().err).toMatch(/--as-adm needs the rendering/);
  expect(refused('--render', '5.1', '--start', '2').err).toMatch(/--as-adm takes gain and limiter/);
  expect(refused('--render', '5.1', '--without-adm').err).toMatch(/take one of them/);
  const flac = opsimeter(
    'master',
    at('dome.wav'),
    '--as-adm',
    '--render',
    '5.1',
    '--spec',
    'ebu-r128',
    '--out',
    at('refused.flac'),
  );
  expect(flac.err).toMatch(/FLAC has no place for it/);
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
  const ran = opsimeter(
    'master',
    at('many.wav'),
    '--render',
    'stereo',
    '--as-adm',
    '--spec',
    'ebu-r128',
    '--out',
    at('many-out.wav'),
  );
  expect([ran.code, ran.err]).toEqual([0, '']);
  expect(readTracks(at('many-out.wav')).tracks).toHaveLength(40);
});
