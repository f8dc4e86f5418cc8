/** What is heard against what is written: the mixer that a page plays with, fed as the server feeds it, and the rendered file. */

import { rmSync, writeFileSync } from 'node:fs';
import { music, speech } from '@/cli/demo/synth';
import { preparationOf, treatmentSchema } from '@/core/treatment/treatment';
import type { HeardVersion } from '@/workers/browser/audition-messages';
import { AuditionMixer } from '@/workers/browser/audition-mixer';
import { measureFile } from '@/workers/node/measure-file';
import { measurePrepared } from '@/workers/node/measure-prepared';
import { prepareFile } from '@/workers/node/prepare-file';
import { renderFile } from '@/workers/node/render-file';
import { at, greatestDifference, heard, QUANTUM, readFile, streamed } from '../fixtures/audition';
import { wavOf } from '../fixtures/wav';

const SECONDS = 7;
const SECTIONS = [
  { startSeconds: 0, level: 0.05, drums: 0 },
  { startSeconds: 1.5, level: 1.1, drums: 1 },
];
const RATES = [44_100, 48_000, 96_000];
/** −120 dBFS. */
const INAUDIBLE = 1e-6;

beforeAll(() => {
  for (const rate of RATES)
    writeFileSync(at(`${rate}.wav`), wavOf(music(SECONDS, rate, SECTIONS, 7), { sampleRateHz: rate }));
  writeFileSync(at('mono.wav'), wavOf([speech(SECONDS, 48_000, 8).map((x) => 0.7 * x + 0.01)]));
});

const fades = (rate: number) => ({
  fadeIn: { frames: rate / 2, shape: 's-curve' as const },
  fadeOut: { frames: rate, shape: 'equal-power' as const },
});

test.each(RATES)(
  'gain, limiter, trim and fades are heard as they are written, and read as the file reads, at %i Hz',
  async (rate) => {
    const treatment = treatmentSchema.parse({
      gainDb: 7,
      limit: { ceilingDbtp: -1 },
      outputGainDb: -0.3,
      ...fades(rate),
    });
    const { reduction } = await renderFile(at(`${rate}.wav`), at(`${rate} out.wav`), { treatment, bitDepth: 32 });
    const { output, live, mostReductionDb, hasEnded } = heard(await streamed(`${rate}.wav`, treatment, 65_536));
    const file = await readFile(at(`${rate} out.wav`));
    expect(greatestDifference(output, file)).toBeLessThanOrEqual(INAUDIBLE);
    expect(hasEnded).toBe(true);
    const { readings } = (await measureFile(at(`${rate} out.wav`))).report;
    expect(live.integratedLufs).toBeCloseTo(readings.integratedLufs ?? Number.NaN, 2);
    expect(live.truePeakDbtp).toBeCloseTo(readings.truePeakDbtp ?? Number.NaN, 2);
    expect(live.loudnessRangeLu).toBeCloseTo(readings.loudnessRangeLu ?? Number.NaN, 2);
    expect(live.peaks).toHaveLength(readings.perChannel.length);
    readings.perChannel.forEach(({ truePeakDbtp, truePeakFrame }, c) => {
      const { maxDbtp, maxFrame } = live.peaks[c] ?? {};
      expect(maxDbtp).toBeCloseTo(truePeakDbtp ?? Number.NaN, 2);
      // It is told by the 100 ms that have it, and the meter hears it some frames later.
      expect(Math.abs((maxFrame ?? Number.NaN) - (truePeakFrame ?? Number.NaN))).toBeLessThan(0.2 * rate);
    });
    expect(live.seconds).toBeCloseTo(Math.floor(((output[0]?.length ?? 0) / rate) * 10) / 10, 0);
    expect(
      Math.abs((live.maxShortTermLufs ?? Number.NaN) - (readings.maxShortTermLufs ?? Number.NaN)),
    ).toBeLessThanOrEqual(0.05);
    expect(
      Math.abs((live.maxMomentaryLufs ?? Number.NaN) - (readings.maxMomentaryLufs ?? Number.NaN)),
    ).toBeLessThanOrEqual(0.05);
    expect(Math.abs(mostReductionDb - (reduction?.greatestDb ?? Number.NaN))).toBeLessThanOrEqual(0.01);
  },
);

test.each([
  { name: '48000.wav', treatment: { gainDb: -3, trim: { startFrame: 30_001, endFrame: 200_003 }, mix: 'mono-3' } },
  {
    name: '48000.wav',
    treatment: {
      gainDb: 9,
      trim: { startFrame: 70_001, endFrame: null },
      limit: { ceilingDbtp: -2, link: 0.4, lookAheadMs: 4, releaseMs: 60 },
    },
  },
  {
    name: 'mono.wav',
    treatment: {
      gainDb: 2,
      removeDc: true,
      paddingStart: { frames: 4801, kind: 'room-tone' },
      paddingEnd: { frames: 24_000, kind: 'silence' },
      fadeOut: { frames: 9000, shape: 'exponential' },
      limit: { ceilingDbtp: -3 },
    },
  },
  {
    name: '44100.wav',
    treatment: {
      gainDb: 5,
      resampleHz: 48_000,
      trim: { startFrame: 5000, endFrame: 250_000 },
      limit: { ceilingDbtp: -1.5 },
    },
  },
])('$name: $treatment is heard as it is written, wherever the parts are cut', async ({ name, treatment: input }) => {
  const treatment = treatmentSchema.parse(input);
  const out = at(`${name} ${JSON.stringify(input).length} out.wav`);
  await renderFile(at(name), out, { treatment, bitDepth: 32 });
  const { output } = heard(await streamed(name, treatment, 40_000));
  rmSync(at(`${name}.resampled`), { force: true });
  expect(greatestDifference(output, await readFile(out))).toBeLessThanOrEqual(INAUDIBLE);
});

test('what the limiter takes away is the whole less what is left', async () => {
  const treatment = treatmentSchema.parse({ gainDb: 8, limit: { ceilingDbtp: -1 } });
  const stream = await streamed('48000.wav', treatment, 65_536);
  const { output: left } = heard(stream);
  const { output: removed } = heard(stream, [{ kind: 'listen', listening: { mono: false, removedOnly: true } }]);
  const source = await readFile(at('48000.wav'));
  const gain = 10 ** (8 / 20);
  let most = 0;
  source.forEach((samples, c) => {
    samples.forEach((sample, n) => {
      most = Math.max(most, Math.abs(sample * gain - (left[c]?.[n] ?? Number.NaN) - (removed[c]?.[n] ?? Number.NaN)));
    });
  });
  expect(most).toBeLessThanOrEqual(INAUDIBLE);
  expect(removed.some((samples) => samples.some((sample) => Math.abs(sample) > 0.01))).toBe(true);
});

test('passing to another version makes no step that neither of them makes', async () => {
  const stream = await streamed('48000.wav', treatmentSchema.parse({ gainDb: 0 }), 65_536);
  const other = { ...stream.version, gainDb: -12 };
  const mixer = new AuditionMixer(
    {
      sampleRateHz: 48_000,
      channels: 2,
      messages: [
        ...stream.messages,
        { kind: 'hear', version: stream.version },
        { kind: 'play', frame: 150_000, order: 1 },
      ],
    },
    QUANTUM,
  );
  const out = [new Float32Array(QUANTUM * 40), new Float32Array(QUANTUM * 40)];
  for (let quantum = 0; quantum < 40; quantum++) {
    if (quantum === 20) mixer.receive({ kind: 'hear', version: other });
    mixer.process(
      out.map((samples) => samples.subarray(quantum * QUANTUM, (quantum + 1) * QUANTUM)),
      QUANTUM,
    );
  }
  const source = (await readFile(at('48000.wav')))[0] as Float32Array;
  const steps = (samples: Float32Array, from: number, to: number) => {
    let most = 0;
    for (let n = from + 1; n < to; n++)
      most = Math.max(most, Math.abs((samples[n] ?? Number.NaN) - (samples[n - 1] ?? Number.NaN)));
    return most;
  };
  const around = steps(source, 150_000, 150_000 + 40 * QUANTUM);
  expect(steps(out[0] as Float32Array, 0, 40 * QUANTUM)).toBeLessThanOrEqual(around + 0.005);
  // In the end it is the other one, sample for sample.
  const end = 39 * QUANTUM;
  expect(out[0]?.[end]).toBeCloseTo((source[150_000 + end] ?? Number.NaN) * 10 ** (-12 / 20), 6);
});

test('where nothing has come yet there is silence, and nothing is passed over', () => {
  const version: HeardVersion = {
    feedId: 'feed',
    reductionId: null,
    gainDb: 0,
    outputGainDb: 0,
    frames: 2000,
    startFrame: 0,
    offsetDb: 0,
    fades: {},
    weights: [1],
  };
  const mixer = new AuditionMixer(
    {
      sampleRateHz: 48_000,
      channels: 1,
      messages: [
        { kind: 'hear', version },
        { kind: 'play', frame: 0, order: 1 },
      ],
    },
    QUANTUM,
  );
  const out = [new Float32Array(QUANTUM).fill(1)];
  mixer.process(out, QUANTUM);
  expect(out[0]?.every((sample) => sample === 0)).toBe(true);
  expect(mixer.report()).toMatchObject({ frame: 0, isStarved: true, isPlaying: true });
  const samples = Float32Array.from({ length: 1000 }, (_, n) => n / 1000);
  mixer.receive({ kind: 'frames', feedId: 'feed', part: { startFrame: 0, channels: [samples] } });
  mixer.process(out, QUANTUM);
  expect(out[0]).toEqual(samples.slice(0, QUANTUM));
  expect(mixer.report()).toMatchObject({ frame: QUANTUM, isStarved: false, missedFrames: 0 });

  // What is late once it sounds is counted, though it goes on before anybody asks.
  for (let n = 0; n < 8; n++) mixer.process(out, QUANTUM);
  const rest = new Float32Array(QUANTUM).fill(0.5);
  mixer.receive({ kind: 'frames', feedId: 'feed', part: { startFrame: 1000, channels: [rest] } });
  mixer.process(out, QUANTUM);
  expect(mixer.report()).toMatchObject({ isStarved: false, missedFrames: 9 * QUANTUM - 1000 });
  mixer.receive({ kind: 'play', frame: 0, order: 2 });
  expect(mixer.report()).toMatchObject({ missedFrames: 0 });
});

test('a loop goes round, and only what is in it is heard', () => {
  const version: HeardVersion = {
    feedId: 'feed',
    reductionId: null,
    gainDb: 0,
    outputGainDb: 0,
    frames: 1000,
    startFrame: 0,
    offsetDb: 0,
    fades: {},
    weights: [1],
  };
  const samples = Float32Array.from({ length: 1000 }, (_, n) => n);
  const mixer = new AuditionMixer(
    {
      sampleRateHz: 48_000,
      channels: 1,
      messages: [
        { kind: 'frames', feedId: 'feed', part: { startFrame: 0, channels: [samples] } },
        { kind: 'hear', version },
        { kind: 'loop', loop: { startFrame: 100, endFrame: 150 } },
        { kind: 'play', frame: 100, order: 1 },
      ],
    },
    QUANTUM,
  );
  const out = [new Float32Array(QUANTUM)];
  mixer.process(out, QUANTUM);
  expect([...(out[0] as Float32Array)]).toEqual(Array.from({ length: QUANTUM }, (_, n) => 100 + (n % 50)));
});

test('a prepared programme is measured as the file that it would be', async () => {
  const preparation = preparationOf(
    treatmentSchema.parse({
      gainDb: 0,
      trim: { startFrame: 12_345, endFrame: 300_000 },
      removeDc: true,
      mix: 'mono-3',
      paddingStart: { frames: 4800, kind: 'silence' },
    }),
  );
  await prepareFile(at('48000.wav'), at('prepared.wav'), preparation);
  const { resampleHz, ...steps } = preparation;
  expect(resampleHz).toBeNull();
  const options = { fileName: 'a', layoutId: null };
  const { readings, format } = await measurePrepared({ path: at('48000.wav'), steps }, at('prepared.bin'), options);
  const { report } = await measureFile(at('prepared.wav'));
  expect(format.frames).toBe(report.format.frames);
  expect(readings).toEqual(report.readings);
});
