import { seededRandom } from '@/cli/demo/random';
import { music, speech } from '@/cli/demo/synth';
import { createKernelLoops } from '@/kernels/curve-kernel';
import { limit, limitedForecast } from '../../../tests/fixtures/limit';
import { ASIDE, KNOWN, made } from '../../../tests/fixtures/limiter-material';
import { measure } from '../../../tests/fixtures/signals';
import { SPECS, specById } from '../spec/catalogue';
import type { Spec } from '../spec/spec';
import { LimitedForecast } from './limited-forecast';
import { levelOptions, levelOptionsForEach, likelyReductionDb, solveLimited } from './limited-solver';
import { solveGain } from './solver';

const { abs, sin, PI } = Math;
const RATE = 48_000;
const CEILING = -1;

/** What is made when it is first asked for, and then as it is. */
function once<T>(make: () => T): () => T {
  let value: T | undefined;
  return () => {
    value ??= make();
    return value;
  };
}

/** Long enough to be gated, and loud and soft by turns. */
const song = once(() =>
  music(
    14,
    RATE,
    [
      { startSeconds: 0, level: 0.3, drums: 0.4 },
      { startSeconds: 5, level: 1.2, drums: 1 },
    ],
    6,
  ),
);
const talk = once(() => [speech(12, RATE, 9)]);

describe.each([...KNOWN, ...ASIDE])(
  '$name, forecast and limited',
  ({ make, forecastWithinLu = 0.05, rmsWithinDb = 0.05 }) => {
    const sourceOnce = once(() => make(RATE));
    test.each([3, 6, 9])('driven by %i dB: within 0.05 LU and 0.05 dB, and the same share of time', (driveDb) => {
      const source = sourceOnce();
      const forecast = limitedForecast(source, RATE, { loops: createKernelLoops() });
      const truePeakDbtp = forecast.programme.readings.truePeakDbtp ?? Number.NaN;
      const limiting = { gainDb: CEILING + driveDb - truePeakDbtp, ceilingDbtp: CEILING };
      const { readings, reduction } = forecast.at(limiting);
      const { channels, limiter } = limit(source, RATE, limiting);
      const exact = measure(channels, RATE).readings;
      const figures = limiter.figures();
      const near = (a: number | null, b: number | null, tolerance: number) => {
        if (a === null || b === null) expect(a).toBe(b);
        else expect(abs(a - b)).toBeLessThanOrEqual(tolerance);
      };
      near(readings.integratedLufs, exact.integratedLufs, forecastWithinLu);
      near(readings.rmsDbfs, exact.rmsDbfs, rmsWithinDb);
      near(readings.loudnessRangeLu, exact.loudnessRangeLu, 0.1);
      // Measured every 10 ms, and forecast every 100.
      near(readings.maxMomentaryLufs, exact.maxMomentaryLufs, Math.max(0.2, forecastWithinLu));
      near(readings.maxShortTermLufs, exact.maxShortTermLufs, Math.max(0.1, forecastWithinLu));
      near(readings.truePeakDbtp, exact.truePeakDbtp, 0.3);
      near(reduction.greatestDb, figures.greatestDb, 0.05);
      near(reduction.percentile95Db, figures.percentile95Db, 0.35);
      near(reduction.shareOfTime, figures.shareOfTime, 0.02);
      // What it costs without a kernel is the same.
      if (driveDb !== 6) return;
      const plain = limitedForecast(source, RATE).at(limiting);
      near(plain.readings.integratedLufs, readings.integratedLufs, 1e-4);
    });
  },
);

/** Solved by forecast, then limited and measured. */
function solved(source: Float32Array[], spec: Spec, maxReductionDb: number) {
  const forecast = limitedForecast(source, RATE, { loops: createKernelLoops() });
  const solution = solveLimited(forecast, spec, maxReductionDb);
  if (!solution) throw new Error('nothing was solved');
  const { channels, limiter } = limit(source, RATE, solution);
  return { solution, readings: measure(channels, RATE).readings, figures: limiter.figures() };
}

const streaming = (target: number): Spec => ({
  ...specById('streaming-music'),
  loudness: { measure: 'integrated', target, toleranceBelow: 1, toleranceAbove: 1 },
});

describe('a limiter is driven', () => {
  test.each([-16, -14, -12])('to %i LUFS, and lands within 0.05 LU in one pass', (target) => {
    const { solution, readings, figures } = solved(song(), streaming(target), 12);
    expect(solution).toMatchObject({ binding: 'target', shortfallLu: 0 });
    expect(abs((readings.integratedLufs ?? Number.NaN) - target)).toBeLessThanOrEqual(0.05);
    expect(readings.truePeakDbtp).toBeLessThanOrEqual(CEILING);
    expect(abs(figures.greatestDb - solution.reduction.greatestDb)).toBeLessThanOrEqual(0.05);
  });

  test.each([...KNOWN, ...ASIDE])('never further than is allowed: $name', ({ make }) => {
    const { solution, figures } = solved(make(RATE), streaming(4), 3);
    expect(solution.binding).toBe('reduction');
    expect(figures.greatestDb).toBeLessThanOrEqual(3.005);
    expect(figures.greatestDb).toBeGreaterThan(2.9);
    expect(solution.shortfallLu).toBeGreaterThan(0);
  });

  test('to an RMS, for speech', () => {
    const spec: Spec = { ...specById('audiobook-retail'), peak: { measure: 'sample', ceiling: -6, allowanceDb: 0 } };
    const { solution, readings } = solved(talk(), spec, 12);
    expect(solution.binding).toBe('target');
    expect(abs((readings.rmsDbfs ?? Number.NaN) + 20.5)).toBeLessThanOrEqual(0.05);
    expect(readings.samplePeakDbfs).toBeLessThanOrEqual(-6);
  });

  test.each([
    ['short-term', 'maxShortTermLufs', -11],
    ['momentary', 'maxMomentaryLufs', -9.5],
  ] as const)('as far as a %s limit lets it', (binding, key, most) => {
    const { solution, readings } = solved(song(), { ...streaming(-10), [key]: most }, 12);
    expect(solution.binding).toBe(binding);
    expect(readings[key]).toBeLessThanOrEqual(most + 0.1);
    expect(readings[key]).toBeGreaterThan(most - 0.15);
    expect(solution.shortfallLu).toBeGreaterThan(0.5);
  });
});

describe('an audiobook, by RMS, peak and noise at once', () => {
  const spec = specById('audiobook-retail');
  /** Speech-like: bursts over a hum that stands so far below them. */
  const read = (burstDb: number, noiseDbfs: number) => {
    const random = seededRandom(12);
    const tone = 10 ** (burstDb / 20) * Math.SQRT2;
    const hiss = 10 ** (noiseDbfs / 20) * Math.sqrt(3);
    return [made(12, RATE, (_, t) => (t % 2 < 1.3 ? tone * sin(2 * PI * 220 * t) : 0) + hiss * (2 * random() - 1))];
  };

  test('all three are met where they can be', () => {
    const { readings, series } = measure(read(-30, -80), RATE);
    expect(solveGain(readings, series.weightedPower, spec)).toMatchObject({ binding: 'target', shortfallLu: 0 });
  });

  test('the noise floor stops the gain within the window', () => {
    const { readings, series } = measure(read(-30, -70.5), RATE);
    const solution = solveGain(readings, series.weightedPower, spec);
    expect(solution?.binding).toBe('noise-floor');
    expect((readings.noiseFloorDbfs ?? Number.NaN) + (solution?.gainDb ?? 0)).toBeLessThanOrEqual(-60);
    expect(solution?.shortfallLu).toBeLessThan(2.5);
  });

  test('where no gain meets both, the programme is brought to its loudness all the same', () => {
    const { readings, series } = measure(read(-30, -50), RATE);
    expect(solveGain(readings, series.weightedPower, spec)).toMatchObject({ binding: 'target' });
  });

  test('the noise floor binds a limiter as well', () => {
    const source = read(-30, -70.5);
    // Peaks that only a limiter lets the speech pass.
    const [samples] = source as [Float32Array];
    for (let n = 24_000; n < samples.length; n += 2 * RATE) samples[n] = 0.5;
    const solution = solveLimited(limitedForecast(source, RATE), spec, 12);
    expect(solution?.binding).toBe('noise-floor');
  });
});

describe('answers', () => {
  test('there is one where gain alone does, and it limits nothing', () => {
    const forecast = limitedForecast(song(), RATE);
    expect(levelOptions(forecast, specById('ebu-r128'))).toMatchObject({
      gainOnly: { binding: 'target', shortfallLu: 0 },
      limited: null,
      target: null,
    });
  });

  test('three, where the ceiling comes first and 3 dB are not enough', () => {
    const options = levelOptions(limitedForecast(song(), RATE), streaming(-11));
    expect(options?.gainOnly.binding).toBe('ceiling');
    expect(options?.limited?.reduction.greatestDb).toBeCloseTo(3, 1);
    expect(options?.target).toMatchObject({ binding: 'target', shortfallLu: 0 });
    expect(options?.target?.reduction.greatestDb).toBeGreaterThan(3);
    const [gainOnly, limited] = [
      options?.gainOnly.shortfallLu ?? Number.NaN,
      options?.limited?.shortfallLu ?? Number.NaN,
    ];
    expect(gainOnly).toBeGreaterThan(limited);
    expect(limited).toBeGreaterThan(0);
  });

  test('for every spec of the catalogue in one call, each as by itself', () => {
    const forecast = limitedForecast(song(), RATE, { loops: createKernelLoops() });
    const all = levelOptionsForEach(forecast, SPECS);
    expect(all).toHaveLength(SPECS.length);
    const fresh = limitedForecast(song(), RATE, { loops: createKernelLoops() });
    SPECS.forEach((spec, i) => {
      expect(all[i]).toEqual(levelOptions(fresh, spec));
    });
  });

  test('two, where less than 3 dB reach the target', () => {
    const forecast = limitedForecast(song(), RATE);
    const target = (levelOptions(forecast, streaming(-11))?.gainOnly.readings.integratedLufs ?? Number.NaN) + 0.8;
    expect(levelOptions(forecast, streaming(target))).toMatchObject({ limited: null, target: { binding: 'target' } });
  });

  test('no target, where another limit stops the limiter on the way', () => {
    const options = levelOptions(limitedForecast(song(), RATE), { ...streaming(-10), maxMomentaryLufs: -9.5 });
    expect(options).toMatchObject({ gainOnly: { binding: 'ceiling' }, target: null, isSpent: false });
    expect(options?.limited?.shortfallLu).toBeGreaterThan(0);
  });

  test('no target, where the limiter takes all that the gain brings', () => {
    const tone = [made(4, RATE, (_, t) => 0.5 * sin(2 * PI * 997 * t))];
    const options = levelOptions(limitedForecast(tone, RATE), streaming(0));
    expect(options).toMatchObject({ target: null, isSpent: true });
    expect(options?.limited).not.toBeNull();
  });

  test('one rare peak may cost much and is not heard; dense limiting is', () => {
    const rare = song().map((samples) => samples.map((x) => 0.3 * x));
    for (const samples of rare) samples[300_000] = 0.9;
    const gentle = levelOptions(limitedForecast(rare, RATE), streaming(-17))?.target;
    expect(gentle?.reduction.greatestDb).toBeGreaterThan(3);
    expect(gentle?.isAudible).toBe(gentle && gentle.reduction.percentile95Db > 2);
    const dense = solveLimited(limitedForecast(song(), RATE), streaming(-8), 12);
    expect(dense?.isAudible).toBe(true);
  });

  test('nothing to move, nothing to answer', () => {
    expect(levelOptions(limitedForecast([new Float32Array(RATE)], RATE), streaming(-14))).toBeNull();
    expect(solveLimited(limitedForecast(song(), RATE), specById('premaster'), 3)).toBeNull();
  });

  test('the depth that peaks are looked for in covers what is solved, and no more than is ever allowed', () => {
    for (const target of [-16, -12, -8, 0]) {
      const forecast = limitedForecast(song(), RATE);
      const likely = likelyReductionDb(forecast.programme, streaming(target));
      expect(likely).toBeLessThanOrEqual(12);
      const found = solveLimited(forecast, streaming(target), 12);
      if (found?.binding === 'target') expect(likely).toBeGreaterThanOrEqual(found.reduction.greatestDb);
    }
  });
});

describe('sets', () => {
  const parts = () => [
    song(),
    song().map((samples) => samples.map((x) => 0.5 * x)),
    talk().map((samples) => samples.map((x) => 0.1 * x)),
  ];

  test('one gain for all: the whole is on the target, and what lies between them stays', () => {
    const forecasts = parts().map((part) => limitedForecast(part, RATE, { loops: createKernelLoops() }));
    const joined = LimitedForecast.joined(forecasts);
    // A loudness and a half more than gain alone reaches.
    const target = (levelOptions(joined, streaming(0))?.gainOnly.readings.integratedLufs ?? Number.NaN) + 1.5;
    const solution = solveLimited(joined, streaming(target), 12);
    expect(solution?.binding).toBe('target');
    if (!solution) return;
    const limited = parts().map((part) => limit(part, RATE, solution));
    expect(Math.max(...limited.map(({ limiter }) => limiter.figures().greatestDb))).toBeCloseTo(
      solution.reduction.greatestDb,
      1,
    );
    // Played one after the other, in stereo.
    const [left, right] = [0, 1].map((channel) => {
      const list = limited.map(({ channels }) => channels[channel] ?? new Float32Array(channels[0]?.length ?? 0));
      return Float32Array.from(list.flatMap((samples) => Array.from(samples)));
    });
    const { readings } = measure([left as Float32Array, right as Float32Array], RATE);
    expect(abs((readings.integratedLufs ?? Number.NaN) - target)).toBeLessThanOrEqual(0.08);
    const loudness = limited.map(({ channels }) => measure(channels, RATE).readings.integratedLufs ?? Number.NaN);
    const before = parts().map((part) => measure(part, RATE).readings.integratedLufs ?? Number.NaN);
    // The softer of the two songs is not limited: it keeps its distance but for what the louder loses.
    const [louder, softer] = loudness as [number, number, number];
    const [wasLouder, wasSofter] = before as [number, number, number];
    expect(softer - wasSofter).toBeCloseTo(solution.gainDb, 1);
    expect(louder - wasLouder).toBeLessThan(softer - wasSofter);
  });

  test('each by itself: each is on the target', () => {
    for (const part of parts()) {
      const { readings } = solved(part, streaming(-15), 12);
      expect(abs((readings.integratedLufs ?? Number.NaN) + 15)).toBeLessThanOrEqual(0.05);
    }
  });
});
