/** Every fault that stems come with, made on purpose, and what is no fault. */
import { seededRandom } from '@/cli/demo/random';
import { dbToAmplitude } from '../../units/decibel';
import type { Fault } from './diagnose';
import type { NullSource } from './null-source';
import { nullTest } from './null-test';

const RATE = 12_000;
const SECONDS = 10;
const FRAMES = SECONDS * RATE;
const BASS_HZ = [55, 62, 41, 49];
const NAMES = ['pads', 'strings', 'bass', 'drums'] as const;
const { PI, sin, round } = Math;

type Stereo = Float32Array[];

const made = new Map<number, readonly Stereo[]>();

/** Four voices that have nothing to do with each other: two chords, a bass line and strokes. Each seed's are made once. */
function voices(seed: number): Stereo[] {
  const known = made.get(seed) ?? newVoices(seed);
  made.set(seed, known);
  return [...known];
}

function newVoices(seed: number): Stereo[] {
  const random = seededRandom(seed);
  const detune = 1 + 0.1 * random();
  const chord = (hz: number, slow: number) => (n: number) =>
    0.05 *
    (0.6 + 0.4 * sin(n / slow)) *
    [1, 1.26, 1.5, 2.02].reduce((sum, ratio) => sum + sin((2 * PI * hz * detune * ratio * n) / RATE), 0);
  const makers = [
    chord(220, 9000),
    chord(554, 14_000),
    (n: number) =>
      0.2 * sin((2 * PI * (BASS_HZ[Math.floor(n / 6000) % 4] ?? 0) * detune * n) / RATE) * (1 - (n % 6000) / 7000),
    (n: number) => 0.4 * (2 * random() - 1) * Math.exp(-(n % 4000) / 500),
  ];
  return makers.map((make) => {
    const left = Float32Array.from({ length: FRAMES }, (_, n) => make(n));
    return [left, left.map((x, n) => 0.8 * x + 0.2 * (left[Math.max(0, n - 7)] as number))];
  });
}

const each = (stem: Stereo, change: (x: number, n: number) => number): Stereo =>
  stem.map((samples) => samples.map((x, n) => change(x, n)));
const sumOf = (stems: readonly Stereo[]): Stereo =>
  [0, 1].map((c) => {
    const sum = new Float64Array(FRAMES);
    for (const stem of stems) {
      const samples = stem[c] as Float32Array;
      for (let n = 0; n < FRAMES; n++) sum[n] = (sum[n] as number) + (samples[n] as number);
    }
    return Float32Array.from(sum);
  });
const delayed = (stem: Stereo, frames: number): Stereo =>
  stem.map((samples) => samples.map((_, n) => samples[n - frames] ?? 0));
/** As a file of so many bits holds it. */
function rounded(stem: Stereo, bits: number): Stereo {
  const scale = 2 ** (bits - 1);
  return stem.map((samples) => {
    const whole = new Float32Array(samples.length);
    for (let n = 0; n < samples.length; n++) whole[n] = round((samples[n] as number) * scale) / scale;
    return whole;
  });
}
/** A peaking filter, by the formulas that everybody uses (R. Bristow-Johnson, from memory). */
function equalised(stem: Stereo, hz: number, gainDb: number): Stereo {
  const [a, w] = [10 ** (gainDb / 40), (2 * PI * hz) / RATE];
  const alpha = sin(w) / 1.4;
  const [b0, b1, b2, a0, a2] = [1 + alpha * a, -2 * Math.cos(w), 1 - alpha * a, 1 + alpha / a, 1 - alpha / a];
  return stem.map((samples) => {
    let [x1, x2, y1, y2] = [0, 0, 0, 0];
    return samples.map((x) => {
      const y = (b0 * x + b1 * x1 + b2 * x2 - b1 * y1 - a2 * y2) / a0;
      [x2, x1, y2, y1] = [x1, x, y1, y];
      return y;
    });
  });
}

function source(name: string, samples: Stereo): NullSource {
  const frames = samples[0]?.length ?? 0;
  return {
    name,
    frames,
    read: async (start, length) =>
      samples.map((own) => {
        const part = new Float32Array(length);
        const from = Math.max(0, start);
        if (from < start + length && from < own.length)
          part.set(own.subarray(from, Math.min(own.length, start + length)), from - start);
        return part;
      }),
  };
}

async function test4(mix: Stereo, stems: readonly Stereo[], toleranceDb = -100) {
  const reading = await nullTest(
    source('mix', rounded(mix, 24)),
    stems.map((stem, i) => source(NAMES[i] ?? `stem ${i + 1}`, rounded(stem, 24))),
    { sampleRateHz: RATE, channels: 2, toleranceDb },
  );
  return reading;
}

const brief = (faults: readonly Fault[]) =>
  faults.map((fault) => `${fault.kind}${'stem' in fault ? ` ${NAMES[fault.stem] ?? fault.stem}` : ''}`);

/** A seed and a stem for each try. */
const TRIES = [0, 1, 2, 3, 0, 2].map((stem, i) => [i + 1, stem] as const);

test.each([1, 2, 3, 4, 5])('stems that add up to their mix null (%d)', async (seed) => {
  const stems = voices(seed);
  const { nulls, residualDb, faults, places, stems: readings } = await test4(sumOf(stems), stems);
  expect({ nulls, faults, places }).toEqual({ nulls: true, faults: [], places: [] });
  expect(residualDb).toBeLessThan(-130);
  expect(
    readings.every(({ gainDb, delayFrames, isInverted }) => gainDb === 0 && delayFrames === 0 && !isInverted),
  ).toBe(true);
});

test.each(TRIES)('a stem that is muted for some seconds is named, with its place (%d, stem %d)', async (seed, stem) => {
  const stems = voices(seed);
  const mix = sumOf(stems);
  const [from, to] = [2.4 * RATE + seed * 1000, 6 * RATE];
  stems[stem] = each(stems[stem] as Stereo, (x, n) => (n >= from && n < to ? 0 : x));
  const { faults } = await test4(mix, stems);
  expect(faults).toMatchObject([{ kind: 'muted', stem }]);
  expect(Math.abs((faults[0]?.startFrame ?? 0) - from)).toBeLessThanOrEqual(RATE / 10 + (stem === 3 ? 4000 : 0));
  expect(Math.abs((faults[0]?.endFrame ?? 0) - to)).toBeLessThanOrEqual(RATE / 10 + (stem === 3 ? 4000 : 0));
});

test.each(TRIES)('a stem that was not delivered is missed (%d, stem %d)', async (seed, stem) => {
  const stems = voices(seed);
  const mix = sumOf(stems);
  const { faults, stems: readings } = await test4(
    mix,
    stems.filter((_, i) => i !== stem),
  );
  expect(faults.map(({ kind }) => kind)).toEqual(['missing']);
  expect(readings.every(({ isInverted }) => !isInverted)).toBe(true);
});

test.each(TRIES)('a stem that the mix is without is named (%d, stem %d)', async (seed, stem) => {
  const stems = voices(seed);
  expect(brief((await test4(sumOf(stems.filter((_, i) => i !== stem)), stems)).faults)).toEqual([
    `absent ${NAMES[stem]}`,
  ]);
});

test.each(TRIES)('a mix with one stem soloed is seen (%d, stem %d)', async (seed, stem) => {
  const stems = voices(seed);
  expect(brief((await test4(stems[stem] as Stereo, stems)).faults)).toEqual([`soloed ${NAMES[stem]}`]);
});

test.each(TRIES)('a stem that was delivered twice is named (%d, stem %d)', async (seed, stem) => {
  const stems = voices(seed);
  const { faults } = await test4(sumOf(stems), [...stems, stems[stem] as Stereo]);
  expect(faults).toMatchObject([{ kind: 'twice', stem: 4, twin: stem }]);
});

test.each([...TRIES.map(([seed, stem], i) => [seed, stem, [1, -1, 37, -480, 1201, 6000][i] as number] as const)])(
  'a stem that was shifted is named, by how much (%d, stem %d, %d frames)',
  async (seed, stem, frames) => {
    const stems = voices(seed);
    const mix = sumOf(stems);
    stems[stem] = delayed(stems[stem] as Stereo, -frames);
    const { faults, stems: readings } = await test4(mix, stems);
    expect(faults[0]).toMatchObject({ kind: 'shifted', stem, delayFrames: frames });
    expect(readings[stem]?.delayFrames).toBe(frames);
  },
);

test.each(TRIES)('a stem that is upside down is named (%d, stem %d)', async (seed, stem) => {
  const stems = voices(seed);
  const mix = sumOf(stems);
  stems[stem] = each(stems[stem] as Stereo, (x) => -x);
  const { faults, stems: readings } = await test4(mix, stems);
  expect(brief(faults)).toEqual([`inverted ${NAMES[stem]}`]);
  expect(readings.map(({ isInverted }) => isInverted)).toEqual(NAMES.map((_, i) => i === stem));
});

test.each([...TRIES.map(([seed, stem], i) => [seed, stem, [-6, -1, 0.2, 3, 10, -0.5][i] as number] as const)])(
  'a stem at another gain is named, by how much (%d, stem %d, %d dB)',
  async (seed, stem, gainDb) => {
    const stems = voices(seed);
    const mix = sumOf(stems);
    stems[stem] = each(stems[stem] as Stereo, (x) => x * dbToAmplitude(-gainDb));
    const { faults, stems: readings } = await test4(mix, stems);
    expect(brief(faults)).toEqual([`gain ${NAMES[stem]}`]);
    expect(faults[0]).toMatchObject({ gainDb: expect.closeTo(gainDb, 2) });
    expect(readings[stem]?.gainDb).toBeCloseTo(gainDb, 2);
  },
);

test.each(TRIES)('a stem that was equalised is named (%d, stem %d)', async (seed, stem) => {
  const stems = voices(seed);
  const hz = [400, 900, 60, 2000][stem] as number;
  const mix = sumOf(stems.map((own, i) => (i === stem ? equalised(own, hz, seed % 2 ? 4 : -6) : own)));
  expect(brief((await test4(mix, stems)).faults)).toEqual([`processed ${NAMES[stem]}`]);
});

test.each(TRIES)('a stem that was compressed is named (%d, stem %d)', async (seed, stem) => {
  const stems = voices(seed);
  const squashed = each(stems[stem] as Stereo, (x) => Math.tanh(8 * x) / 8);
  const mix = sumOf(stems.map((own, i) => (i === stem ? squashed : own)));
  expect(brief((await test4(mix, stems)).faults)).toEqual([`processed ${NAMES[stem]}`]);
});

describe('what is no fault', () => {
  test.each([16, 24])('rounding to %d bits', async (bits) => {
    const stems = voices(7);
    const { nulls } = await nullTest(
      source('mix', rounded(sumOf(stems), bits)),
      stems.map((stem, i) => source(NAMES[i] as string, rounded(stem, bits))),
      { sampleRateHz: RATE, channels: 2, toleranceDb: bits === 16 ? -80 : -100 },
    );
    expect(nulls).toBe(true);
  });

  test('a gain of a ten-thousandth of a decibel', async () => {
    const stems = voices(8);
    const mix = sumOf(stems);
    stems[0] = each(stems[0] as Stereo, (x) => x * dbToAmplitude(0.0001));
    expect((await test4(mix, stems)).faults).toEqual([]);
  });

  test('a stem that is silent, in the mix too', async () => {
    const stems = voices(9);
    stems[1] = each(stems[1] as Stereo, () => 0);
    const { nulls, stems: readings } = await test4(sumOf(stems), stems);
    expect(nulls).toBe(true);
    expect(readings).toHaveLength(4);
  });

  test('a stem that pauses, in the mix too, where another was muted', async () => {
    const stems = voices(10);
    stems[1] = each(stems[1] as Stereo, (x, n) => (n > 3 * RATE && n < 8 * RATE ? 0 : x));
    const mix = sumOf(stems);
    stems[2] = each(stems[2] as Stereo, (x, n) => (n >= 4 * RATE && n < 6 * RATE ? 0 : x));
    expect(brief((await test4(mix, stems)).faults)).toEqual(['muted bass']);
  });

  test('two stems that are alike, but not the same', async () => {
    const stems = voices(11);
    const double = each(stems[0] as Stereo, (x, n) => x * (1 + 0.05 * sin(n / 900)));
    const { nulls } = await test4(sumOf([...stems, double]), [...stems, double]);
    expect(nulls).toBe(true);
  });
});

test('two faults in two places are told apart', async () => {
  const stems = voices(12);
  const mix = sumOf(stems);
  stems[0] = each(stems[0] as Stereo, (x, n) => (n >= RATE && n < 3 * RATE ? 0 : x));
  stems[1] = each(stems[1] as Stereo, (x, n) => (n >= 6 * RATE && n < 8 * RATE ? -x : x));
  const { faults, places } = await test4(mix, stems);
  expect(brief(faults)).toEqual(['muted pads', 'inverted strings']);
  expect(places).toHaveLength(2);
});

test('the picture shows what is left where it is: its octave, and its time', async () => {
  const stems = voices(13);
  const mix = sumOf(stems);
  stems[2] = each(stems[2] as Stereo, (x, n) => (n >= 4 * RATE && n < 6 * RATE ? 0 : x));
  const { bands } = await test4(mix, stems);
  const column = (seconds: number) => bands.columnsDbfs[Math.floor(seconds / bands.secondsPerColumn)] as number[];
  const low = bands.centresHz.indexOf(63);
  expect(column(5)[low]).toBeGreaterThan(-40);
  expect(column(2)[low]).toBeLessThan(-120);
  expect(column(5)[bands.centresHz.indexOf(4000)]).toBeLessThan(-60);
});

test('it ends when it is cancelled', async () => {
  const stems = voices(14);
  const options = { sampleRateHz: RATE, channels: 2, toleranceDb: -100, signal: AbortSignal.abort() };
  await expect(
    nullTest(
      source('mix', sumOf(stems)),
      stems.map((stem, i) => source(NAMES[i] as string, stem)),
      options,
    ),
  ).rejects.toThrow();
});
