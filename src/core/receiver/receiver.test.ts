import type { Readings } from '../loudness/readings';
import { specById } from '../spec/catalogue';
import { factsOfFile, type MeasuredFile } from '../spec/facts';
import { describeRules, type ReceivedFacts, refusals, refusalsAtSight } from './acceptance';
import { manifestSchema, sentNameSchema } from './manifest';
import { askAgainMs, backOffMs, MOST_TRIES } from './retry';

const RULES = {
  specId: 'podcast-stereo',
  files: ['mp3', 'm4a'],
  leastKbps: 128,
  name: { pattern: /^[a-z0-9.]+$/, words: 'small letters and digits' },
  mostBytes: 2e9,
} as const;

const readings = { integratedLufs: -16, truePeakDbtp: -1.5, samplePeakDbfs: -1.7 } as Readings;
const MP3: MeasuredFile = {
  format: {
    container: 'MPEG audio',
    codec: 'MP3',
    sampleRateHz: 44_100,
    bitDepth: null,
    bitRateBps: 128_000,
    channels: 2,
    layout: 'stereo',
    durationSeconds: 10,
    track: null,
    decodeErrors: 0,
  },
  readings,
  nonFiniteSamples: 0,
};
const received = (file: Partial<MeasuredFile>, sizeBytes = 160_000): ReceivedFacts => ({
  files: [{ fileName: 'a.mp3', sizeBytes }],
  facts: factsOfFile({ ...MP3, ...file }),
});

test('waits grow twice as long each time, to a minute; the tries end', () => {
  expect([1, 2, 3, 4, 7, 40].map((tries) => backOffMs(tries, 0))).toEqual([1000, 2000, 4000, 8000, 60_000, 60_000]);
  expect([0, 0.5, 1].map((chance) => backOffMs(2, chance))).toEqual([2000, 1800, 1600]);
  expect(Array.from({ length: MOST_TRIES }, (_, i) => backOffMs(i + 1, 0)).every((ms) => ms <= 60_000)).toBe(true);
  expect([0, 8000, 1e9].map(askAgainMs)).toEqual([1000, 2000, 60_000]);
});

test('what is refused at sight: kind, name, size', () => {
  expect(refusalsAtSight(RULES, received({}).files)).toEqual([]);
  expect(refusalsAtSight(RULES, [{ fileName: 'A b.wav', sizeBytes: 3e9 }])).toEqual([
    'A b.wav is not MP3 or AAC',
    'A b.wav must be named with small letters and digits',
    'it has 3.0 GB, 2.0 GB at most are accepted',
  ]);
  // A BW64 file is called as a WAV file is.
  expect(refusalsAtSight({ ...RULES, files: ['bw64'] }, [{ fileName: 'a.wav', sizeBytes: 1 }])).toEqual([]);
});

test('what is refused once it is measured says what was found, and what was asked', () => {
  const spec = specById('podcast-stereo');
  expect(refusals(RULES, spec, received({}))).toEqual([]);
  const hot = { ...readings, integratedLufs: -19.3, truePeakDbtp: -0.7 };
  expect(refusals(RULES, spec, received({ readings: hot, nonFiniteSamples: 2 }, 80_000))).toEqual([
    'Integrated −19.30 LUFS, required −16.0 ±1.0 LUFS',
    'True peak −0.70 dBTP, required ≤ −1.0 dBTP',
    'Invalid samples 2, required none',
    'its bytes come to 64 kbit/s, 128 kbit/s or more are required',
  ]);
  expect(refusals(RULES, spec, received({ readings: { ...readings, integratedLufs: null } }))[0]).toMatch(
    /not assessed/,
  );
  expect(describeRules(RULES, spec)).toContain('as MP3 or AAC, 128 kbit/s or more');
});

test('a shop looks at everything that its spec asks for, not at levels alone', () => {
  const shop = specById('audiobook-retail');
  const rules = { ...RULES, leastKbps: 192 };
  const levels = { ...readings, rmsDbfs: -20, samplePeakDbfs: -4, noiseFloorDbfs: -70 };
  const silent = { totalSeconds: 3, headSeconds: 3, tailSeconds: 0 };
  const file = {
    format: { ...MP3.format, bitRateBps: 64_000, bitRateMode: 'constant' as const },
    readings: { ...levels, digitalSilence: silent },
    edges: { headSeconds: 3, tailSeconds: 0.2 },
  };
  expect(refusals(rules, shop, received(file, 240_000))).toEqual([
    'Head 3.00 s, required 0.5 to 1.0 s',
    'Tail 0.20 s, required 1.0 to 5.0 s',
    'Head and tail digital silence: 3.00 s at the start, required room tone',
    'Bit rate constant, 64 kbit/s, required constant, 192 kbit/s or more',
  ]);
});

test('no name leads out of its folder', () => {
  for (const name of ['../x.wav', 'a/b.wav', 'a\\b.wav', '.', '..', '', 'a\u0000.wav']) {
    expect(sentNameSchema.safeParse(name).success).toBe(false);
  }
  expect(sentNameSchema.safeParse('…ähnlich wie.wav').success).toBe(true);
  expect(manifestSchema.safeParse({}).success).toBe(false);
});
