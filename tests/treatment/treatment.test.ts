/** Whole treatments, from file to file: what they promise, whatever is in them. */
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { music, speech } from '@/cli/demo/synth';
import { DITHERS } from '@/core/treatment/steps/dither';
import { FADE_SHAPES } from '@/core/treatment/steps/fade';
import { limitSchema } from '@/core/treatment/steps/limit';
import { CHANNEL_MIXES, mixedChannels } from '@/core/treatment/steps/mix-channels';
import { PADDING_KINDS } from '@/core/treatment/steps/padding';
import { resampledFrames } from '@/core/treatment/steps/resample';
import { describeTreatment, type Treatment, treatmentSchema } from '@/core/treatment/treatment';
import type { WrittenDepth } from '@/formats/pack';
import { renderFile } from '@/workers/node/render-file';
import { bytesOf, decodedByFfmpeg, firstDifference } from '../fixtures/ffmpeg';
import { judgedTruePeakDbtp } from '../fixtures/judge';
import { wavOf } from '../fixtures/wav';

const RATE = 48_000;
const FRAMES = 1.6 * RATE;
const folder = mkdtempSync(join(tmpdir(), 'opsimeter-treatment-'));
const at = (name: string) => join(folder, name);
afterAll(() => rmSync(folder, { recursive: true }));

beforeAll(() => {
  const sections = [
    { startSeconds: 0, level: 0.02, drums: 0 },
    { startSeconds: 0.8, level: 1.2, drums: 1 },
  ];
  writeFileSync(at('stereo.wav'), wavOf(music(1.6, RATE, sections, 31)));
  writeFileSync(at('mono.wav'), wavOf([speech(1.6, RATE, 32).map((x) => 0.3 * x + 0.02)]));
});

let written = 0;
async function rendered(source: string, treatment: Treatment, bitDepth: WrittenDepth = 24, pieceFrames?: number) {
  const path = at(`out ${++written}.wav`);
  const report = await renderFile(at(source), path, { treatment, bitDepth, pieceFrames });
  return { path, report };
}

const frames = (most: number) => fc.integer({ min: 1, max: most });
const orNone = <T>(arbitrary: fc.Arbitrary<T>) => fc.option(arbitrary, { freq: 1 });
const fade = orNone(fc.record({ frames: frames(FRAMES), shape: fc.constantFrom(...FADE_SHAPES) }));
const pad = orNone(fc.record({ frames: frames(RATE / 4), kind: fc.constantFrom(...PADDING_KINDS) }));
const treatments = fc
  .record({
    trim: orNone(
      fc.record({ startFrame: fc.nat(RATE / 4), endFrame: orNone(fc.integer({ min: RATE, max: 2 * FRAMES })) }),
    ),
    removeDc: fc.boolean(),
    mix: fc.constantFrom(...CHANNEL_MIXES),
    paddingStart: pad,
    paddingEnd: pad,
    gainDb: fc.double({ min: -12, max: 14, noNaN: true }),
    limit: fc.record({
      ceilingDbtp: fc.double({ min: -12, max: 0, noNaN: true }),
      link: fc.constantFrom(0, 0.5, 1),
      lfe: fc.constantFrom('linked' as const, 'apart' as const),
      lookAheadMs: fc.constantFrom(0.5, 1.5, 10),
      releaseMs: orNone(fc.integer({ min: 10, max: 1000 })),
    }),
    outputGainDb: fc.constantFrom(0, -3),
    fadeIn: fade,
    fadeOut: fade,
    dither: orNone(fc.constantFrom(...DITHERS)),
  })
  .map((steps) => treatmentSchema.parse(steps));

test('random treatments: exactly as long as promised, never over the ceiling, never what is no number, however cut', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.constantFrom('stereo.wav', 'mono.wav'),
      treatments,
      fc.constantFrom<WrittenDepth>(16, 24, 32),
      fc.constantFrom(1000, 4097, 20_000),
      async (source, treatment, bitDepth, pieceFrames) => {
        const { path, report } = await rendered(source, treatment, bitDepth);
        const channels = source === 'mono.wav' ? 1 : mixedChannels(treatment.mix);
        const samples = decodedByFfmpeg(path, channels);
        const { trim, paddingStart, paddingEnd, limit, outputGainDb } = treatment;
        const kept = Math.min(FRAMES, trim?.endFrame ?? FRAMES) - (trim?.startFrame ?? 0);
        const promised = (paddingStart?.frames ?? 0) + kept + (paddingEnd?.frames ?? 0);
        expect(samples.map(({ length }) => length)).toEqual(samples.map(() => promised));
        expect(samples.every((channel) => channel.every(Number.isFinite))).toBe(true);
        // Dither and rounding to 16 bits may lift a peak by a step or two, some ten-thousandths of a decibel at full scale.
        const stepsDb =
          bitDepth === 16
            ? 20 * Math.log10(1 + 6 / 2 ** 15 / 10 ** (((limit?.ceilingDbtp ?? 0) + outputGainDb) / 20))
            : 0;
        expect(judgedTruePeakDbtp(samples)).toBeLessThanOrEqual(
          (limit?.ceilingDbtp ?? 0) + outputGainDb + 0.05 + stepsDb,
        );
        expect(report.clippedSamples).toBe(0);
        const again = await rendered(source, treatment, bitDepth, pieceFrames);
        expect(again.report).toEqual(report);
        expect(Buffer.compare(bytesOf(again.path), bytesOf(path))).toBe(0);
        rmSync(path);
        rmSync(again.path);
      },
    ),
    { numRuns: 40 },
  );
}, 240_000);

const only = (steps: Partial<Treatment>) => treatmentSchema.parse({ gainDb: 0, ...steps });

test('with every step off, the samples are those of the source, bit for bit; so they are under a limiter’s ceiling', async () => {
  const source = decodedByFfmpeg(at('mono.wav'), 1);
  expect(judgedTruePeakDbtp(source)).toBeLessThan(-0.1);
  for (const limit of [null, limitSchema.parse({ ceilingDbtp: 0 })]) {
    const { path, report } = await rendered('mono.wav', only({ limit }));
    expect(report.reduction?.greatestDb ?? 0).toBe(0);
    expect(firstDifference(decodedByFfmpeg(path, 1), source)).toBeUndefined();
  }
});

test.each([
  [44_100, 997],
  [96_000, 997],
  [44_100, 19_000],
  [32_000, 12_000],
])('resampled to %i Hz, a tone of %i Hz is the same tone, where it was and no longer', async (resampleHz, hz) => {
  const tone = (rate: number, n: number) => 0.5 * Math.sin((2 * Math.PI * hz * n) / rate);
  writeFileSync(at('tone.wav'), wavOf([Float32Array.from({ length: FRAMES }, (_, n) => tone(RATE, n))]));
  const { path } = await rendered('tone.wav', only({ resampleHz }), 32);
  const [samples] = decodedByFfmpeg(path, 1) as [Float32Array];
  expect(samples).toHaveLength(resampledFrames(FRAMES, RATE, resampleHz));
  // Away from the ends, where the tone begins and stops at once.
  const edge = Math.round(0.1 * resampleHz);
  let [error, power] = [0, 0];
  for (let n = edge; n < samples.length - edge; n++) {
    error += ((samples[n] ?? Number.NaN) - tone(resampleHz, n)) ** 2;
    power += tone(resampleHz, n) ** 2;
  }
  // The source itself has 24 bits: some −141 dB under such a tone.
  expect(10 * Math.log10(error / power)).toBeLessThan(-130);
});

test('what lies above the new rate’s half is gone', async () => {
  const above = Float32Array.from({ length: FRAMES }, (_, n) => 0.5 * Math.sin((2 * Math.PI * 23_000 * n) / RATE));
  writeFileSync(at('above.wav'), wavOf([above]));
  const { path } = await rendered('above.wav', only({ resampleHz: 44_100 }), 32);
  const [samples] = decodedByFfmpeg(path, 1) as [Float32Array];
  const middle = samples.subarray(4410, samples.length - 4410);
  expect(middle.reduce((most, x) => Math.max(most, Math.abs(x)), 0)).toBeLessThan(1e-6);
});

describe('what is added ahead and behind', () => {
  const level = (samples: Float32Array) => 10 * Math.log10(samples.reduce((sum, x) => sum + x * x, 0) / samples.length);

  test('silence is silence, and fades begin behind it', async () => {
    const treatment = only({
      paddingStart: { frames: 4800, kind: 'silence' },
      paddingEnd: { frames: 9600, kind: 'silence' },
      fadeIn: { frames: 100, shape: 'linear' },
      fadeOut: { frames: 100, shape: 'linear' },
    });
    const { path } = await rendered('mono.wav', treatment);
    const [samples] = decodedByFfmpeg(path, 1) as [Float32Array];
    const [source] = decodedByFfmpeg(at('mono.wav'), 1) as [Float32Array];
    expect(samples.subarray(0, 4801).every((x) => x === 0)).toBe(true);
    expect(samples[4800 + 50]).toBeCloseTo((source[50] ?? Number.NaN) / 2, 6);
    expect(samples.subarray(4900, 4800 + FRAMES - 100)).toEqual(source.subarray(100, FRAMES - 100));
    expect(samples.subarray(4800 + FRAMES - 1).every((x) => x === 0)).toBe(true);
  });

  test('room tone is as loud as where it was found, without a seam, and passes into the programme', async () => {
    // Hiss all along, and something said in the middle.
    const random = seededNoise();
    const room = Float32Array.from({ length: 3 * RATE }, (_, n) => {
      const said = n > RATE && n < 1.5 * RATE ? 0.3 * Math.sin(n / 11) : 0;
      return 0.003 * random() + said;
    });
    writeFileSync(at('room.wav'), wavOf([room]));
    const treatment = only({
      paddingStart: { frames: 2 * RATE, kind: 'room-tone' },
      paddingEnd: { frames: RATE, kind: 'room-tone' },
      gainDb: 6,
    });
    const { path } = await rendered('room.wav', treatment, 32);
    const [samples] = decodedByFfmpeg(path, 1) as [Float32Array];
    expect(samples).toHaveLength(6 * RATE);
    const own = level(room.subarray(0, RATE)) + 6;
    // Every tenth of a second of it, and across its edges to the programme.
    for (const from of [...Array.from({ length: 28 }, (_, i) => i), 46, 47, 48, 49, 50, 51, 55, 58]) {
      const part = samples.subarray((from * RATE) / 10, ((from + 1) * RATE) / 10);
      expect(Math.abs(level(part) - own)).toBeLessThan(0.6);
    }
    // What was said is untouched but for the gain.
    const said = samples.subarray(3 * RATE, 3.5 * RATE).map((x) => x / 10 ** (6 / 20));
    said.forEach((x, n) => {
      expect(Math.abs(x - (room[RATE + n] ?? Number.NaN))).toBeLessThan(1e-6);
    });
  });

  test('room tone is never speech: it is looked for in the whole source, and by being noise', async () => {
    const random = seededNoise();
    const hiss = (seconds: number, dbfs: number) => {
      const peak = Math.sqrt(3) * 10 ** (dbfs / 20);
      return Array.from({ length: seconds * RATE }, () => peak * random());
    };
    // Syllables of a voice at −33 dBFS with no pause between them, and the room itself at −66 ahead of them.
    const voice = Array.from({ length: 4 * RATE }, (_, n) => {
      const syllable = 0.6 + 0.4 * Math.sin((2 * Math.PI * 4 * n) / RATE);
      const partials = [1, 2, 3, 4, 5].reduce((sum, k) => sum + Math.sin((2 * Math.PI * 130 * k * n) / RATE) / k, 0);
      return 0.02 * syllable * partials;
    });
    writeFileSync(at('talk.wav'), wavOf([Float32Array.from([...hiss(1, -66), ...voice])]));
    const kept = { startFrame: RATE, endFrame: null };
    const paddingStart = { frames: 2 * RATE, kind: 'room-tone' } as const;
    const levelOf = (samples: Float32Array) =>
      10 * Math.log10(samples.reduce((sum, x) => sum + x * x, 0) / samples.length);
    for (const resampleHz of [null, 44_100]) {
      const { path } = await rendered('talk.wav', only({ trim: kept, paddingStart, resampleHz }), 32);
      const [samples] = decodedByFfmpeg(path, 1) as [Float32Array];
      // White noise has less in a narrower band.
      const expected = -66 + 10 * Math.log10((resampleHz ?? RATE) / RATE);
      expect(Math.abs(levelOf(samples.subarray(0, RATE)) - expected)).toBeLessThan(0.5);
    }
    // Where there is nothing but the voice, that is said, and not taken.
    writeFileSync(at('voice.wav'), wavOf([Float32Array.from(voice)]));
    await expect(rendered('voice.wav', only({ paddingStart }))).rejects.toThrow(/no usable room tone/);
    // By hand, what is chosen is taken.
    const { path } = await rendered('voice.wav', only({ paddingStart: { ...paddingStart, toneStartFrame: 100 } }), 32);
    expect(levelOf((decodedByFfmpeg(path, 1)[0] as Float32Array).subarray(0, RATE))).toBeGreaterThan(-50);
  });

  test('digital silence has no room tone, which is said', async () => {
    writeFileSync(at('silent.wav'), wavOf([new Float32Array(RATE)]));
    await expect(rendered('silent.wav', only({ paddingStart: { frames: 100, kind: 'room-tone' } }))).rejects.toThrow(
      'no usable room tone',
    );
  });
});

function seededNoise(): () => number {
  let state = 1;
  return () => {
    state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0;
    return state / 2 ** 31 - 1;
  };
}

test('linked by position, a peak in front takes the front channels down, and leaves surround and height as they are', async () => {
  const soft = (hz: number) =>
    Float32Array.from({ length: FRAMES }, (_, n) => 0.1 * Math.sin((2 * Math.PI * hz * n) / RATE));
  const channels = Array.from({ length: 12 }, (_, i) => soft(200 + 50 * i));
  // A second of peaks over the ceiling, on the left in front.
  for (let n = 20_000; n < 68_000 && n < FRAMES; n++)
    (channels[0] as Float32Array)[n] = 0.9 * Math.sin((2 * Math.PI * 90 * n) / RATE);
  writeFileSync(at('bed.wav'), wavOf(channels, { sampleRateHz: RATE, channelMask: 0x2d63f }));
  const before = decodedByFfmpeg(at('bed.wav'), 12);
  const limitedBy = async (linkGroups: object) => {
    const limit = limitSchema.parse({ ceilingDbtp: -6, ...linkGroups });
    const { path, report } = await rendered('bed.wav', only({ limit }), 32);
    const after = decodedByFfmpeg(path, 12);
    const touched = after.map((samples, c) => firstDifference([samples], [before[c] as Float32Array]) !== undefined);
    return { touched, report, after };
  };
  const [all, byPosition] = [await limitedBy({}), await limitedBy({ linkGroups: 'by-position' })];
  expect(all.touched).toEqual(all.touched.map(() => true));
  // L R C LFE, and nothing of Lb Rb Lss Rss Ltf Rtf Ltb Rtb.
  expect(byPosition.touched).toEqual([true, true, true, true, ...Array.from({ length: 8 }, () => false)]);
  expect(judgedTruePeakDbtp(byPosition.after)).toBeLessThanOrEqual(-6 + 0.05);
  expect(byPosition.report.reduction?.greatestDb).toBeGreaterThan(4);
  expect(
    describeTreatment(only({ limit: limitSchema.parse({ ceilingDbtp: -6, linkGroups: 'by-position' }) }), RATE),
  ).toEqual([
    'Limiter at −6.0 dBTP, release by programme, channels linked, front, surround and height each by themselves',
  ]);
});

test('a treatment is told in words, in the order that it is gone through', () => {
  expect(describeTreatment(only({}), RATE)).toEqual([]);
  const treatment = only({
    trim: { startFrame: RATE, endFrame: null },
    resampleHz: 44_100,
    removeDc: true,
    mix: 'mono-3',
    paddingStart: { frames: 22_050, kind: 'room-tone' },
    gainDb: -2.5,
    limit: { ceilingDbtp: -1, link: 0.5, lfe: 'apart', lookAheadMs: 3, releaseMs: 80 },
    outputGainDb: -0.5,
    fadeOut: { frames: 88_200, shape: 's-curve' },
    dither: 'tpdf',
  });
  expect(describeTreatment(treatment, RATE)).toEqual([
    'Trimmed to 0:01.000 – the end',
    'Resampled to 44.1 kHz',
    'DC offset removed',
    'Mono sum at −3 dB',
    '0.5 s of room tone added at the start',
    'Gain −2.50 dB',
    'Limiter at −1.0 dBTP, look-ahead 3 ms, release 80 ms, channels linked by 50 %, low-frequency channel separate',
    'Output gain −0.50 dB',
    'Fade out over 2 s, in an S-curve',
    'Triangular dither',
  ]);
});
