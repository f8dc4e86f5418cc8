import { AppError } from '../errors/app-error';
import type { FlagReader } from './step';
import { USUAL_LIMITER } from './steps/limit';
import {
  describeTreatment,
  fadesOf,
  gainOnly,
  isLevelOnly,
  NO_PREPARATION,
  preparationOf,
  processFrames,
  readTreatment,
  rescaledSteps,
  STEP_FLAGS,
  STEP_NAMES,
  stepNamed,
  type Treatment,
  treatmentSchema,
} from './treatment';

const RATE = 48_000;
const ALL: Treatment = {
  trim: { startFrame: 1.5 * RATE, endFrame: 90 * RATE },
  resampleHz: 96_000,
  removeDc: true,
  downmix: { to: 'stereo', from: ['L', 'R', 'C', 'LFE', 'Ls', 'Rs'] },
  mix: 'mono-6',
  paddingStart: { frames: 96_000, kind: 'silence' },
  paddingEnd: { frames: 48_000, kind: 'room-tone' },
  gainDb: -3.25,
  limit: { ...USUAL_LIMITER, ceilingDbtp: -1 },
  outputGainDb: -0.5,
  fadeIn: { frames: 9600, shape: 'linear' },
  fadeOut: { frames: 192_000, shape: 's-curve' },
  dither: 'shaped',
};

/** Flags as a person has typed them. */
function typed(values: Record<string, string | number | true>): FlagReader {
  return {
    isOn: (name) => values[name] === true,
    number: (name) => (typeof values[name] === 'number' ? values[name] : null),
    choice: (name, known, otherwise) => known.find((own) => own === values[name]) ?? otherwise,
    frames: (name, rateHz) => (typeof values[name] === 'number' ? Math.round(values[name] * rateHz) : null),
  };
}
const read = (values: Record<string, string | number | true>, writtenHz = RATE) =>
  readTreatment(typed(values), { sourceHz: RATE, writtenHz });

test('every step is said in order, at the rate that it is counted at', () => {
  expect(describeTreatment(ALL, RATE)).toEqual([
    'Trimmed to 0:01.500 – 1:30.000',
    'Resampled to 96 kHz',
    expect.stringMatching(/DC/),
    'Stereo downmix (BS.775)',
    expect.stringMatching(/mono|Mono/),
    '1 s of silence added at the start',
    '0.5 s of room tone added at the end',
    expect.stringMatching(/−3\.25 dB/),
    'Limiter at −1.0 dBTP, release by programme, channels linked',
    'Output gain −0.50 dB',
    'Fade in over 0.1 s, linear',
    'Fade out over 2 s, in an S-curve',
    expect.stringMatching(/[Ss]haped/),
  ]);
  expect(describeTreatment({ ...ALL, trim: { startFrame: 0, endFrame: null } }, RATE)[0]).toBe(
    'Trimmed to 0:00.000 – the end',
  );
});

test('a limiter that is set up otherwise says how', () => {
  const said = (change: Partial<NonNullable<Treatment['limit']>>) =>
    stepNamed('limit').describe({ ...ALL, limit: { ...USUAL_LIMITER, ceilingDbtp: -2, ...change } }, RATE);
  expect(said({ lookAheadMs: 4, releaseMs: 80 })).toBe(
    'Limiter at −2.0 dBTP, look-ahead 4 ms, release 80 ms, channels linked',
  );
  expect(said({ link: 0.5 })).toMatch(/channels linked by 50 %$/);
  expect(said({ link: 0, lfe: 'apart' })).toMatch(/separate channels, low-frequency channel separate$/);
});

test('what is off says nothing', () => {
  for (const name of STEP_NAMES.filter((own) => own !== 'gainDb')) {
    expect(stepNamed(name).describe(gainOnly(0), RATE)).toBeNull();
  }
});

test('what is left out is off, and the names of earlier versions are read', () => {
  expect(treatmentSchema.parse({ gainDb: 1 })).toEqual(gainOnly(1));
  expect(() => treatmentSchema.parse({})).toThrow();
  expect(
    treatmentSchema.parse({
      gainDb: 0,
      keep: { startFrame: 5, endFrame: null },
      head: { frames: 3, kind: 'silence' },
      tail: { frames: 4, kind: 'room-tone' },
      trimDb: -1,
    }),
  ).toEqual({
    ...gainOnly(0),
    trim: { startFrame: 5, endFrame: null },
    paddingStart: { frames: 3, kind: 'silence' },
    paddingEnd: { frames: 4, kind: 'room-tone' },
    outputGainDb: -1,
  });
});

test.each<[string, object]>([
  ['a trim that leaves nothing', { trim: { startFrame: 5, endFrame: 5 } }],
  ['a rate that no file has', { resampleHz: 7999 }],
  ['a gain beyond all reason', { gainDb: 60.01 }],
  ['a ceiling above full scale', { limit: { ceilingDbtp: 0.1 } }],
  ['an output gain upwards', { outputGainDb: 0.1 }],
  ['an output gain too far down', { outputGainDb: -24.1 }],
  ['a fade of no frames', { fadeIn: { frames: 0, shape: 'linear' } }],
  ['padding of no frames', { paddingEnd: { frames: 0, kind: 'silence' } }],
])('%s is refused', (_, change) => {
  expect(treatmentSchema.safeParse({ ...ALL, ...change }).success).toBe(false);
  expect(treatmentSchema.safeParse(ALL).success).toBe(true);
});

test('at another rate, lengths that are counted at it keep their time; what is counted in the source stays', () => {
  expect(rescaledSteps(ALL, 0.5)).toEqual({
    paddingStart: { frames: 48_000, kind: 'silence' },
    paddingEnd: { frames: 24_000, kind: 'room-tone' },
    fadeIn: { frames: 4800, shape: 'linear' },
    fadeOut: { frames: 96_000, shape: 's-curve' },
  });
  expect(rescaledSteps(gainOnly(0), 0.5)).toEqual({
    paddingStart: null,
    paddingEnd: null,
    fadeIn: null,
    fadeOut: null,
  });
});

test('what comes before the gain is a part by itself', () => {
  expect(preparationOf(ALL)).toEqual({
    trim: ALL.trim,
    resampleHz: 96_000,
    removeDc: true,
    downmix: ALL.downmix,
    mix: 'mono-6',
    paddingStart: ALL.paddingStart,
    paddingEnd: ALL.paddingEnd,
  });
  expect(isLevelOnly(NO_PREPARATION)).toBe(true);
  const louder: Treatment = { ...gainOnly(5), limit: ALL.limit, fadeIn: ALL.fadeIn };
  expect(isLevelOnly(louder)).toBe(true);
  for (const name of ['trim', 'resampleHz', 'removeDc', 'mix', 'paddingStart', 'paddingEnd'] as const) {
    expect(isLevelOnly({ ...gainOnly(0), [name]: ALL[name] })).toBe(false);
  }
});

test('frames go through the steps that are on, and no others', () => {
  const stereo = () => [Float32Array.of(0.5, 0.25), Float32Array.of(0.1, -0.25)];
  expect(processFrames(NO_PREPARATION, stereo())).toEqual(stereo());
  expect(processFrames({ ...NO_PREPARATION, mix: 'left' }, stereo())).toHaveLength(1);
  const [mono] = processFrames({ ...NO_PREPARATION, mix: 'mono-6' }, stereo());
  expect(mono?.[0]).toBeCloseTo(0.3, 6);
});

test('fades lie within silence that was added, and not within room tone', () => {
  expect(fadesOf(ALL)).toEqual({ fadeIn: ALL.fadeIn, fadeOut: ALL.fadeOut, paddingStart: 96_000, paddingEnd: 0 });
  expect(fadesOf(gainOnly(0))).toEqual({ fadeIn: null, fadeOut: null, paddingStart: 0, paddingEnd: 0 });
});

describe('flags', () => {
  test('none leave everything off, at a gain that is worked out', () => {
    expect(read({})).toEqual(gainOnly(0));
  });

  test('times of a trim are those of the source, of what is added those of the file', () => {
    expect(
      read(
        { start: 1, end: 2.5, 'padding-start': 0.5, 'padding-end': 1, 'room-tone': true, 'output-gain': -1.5 },
        96_000,
      ),
    ).toMatchObject({
      trim: { startFrame: RATE, endFrame: 2.5 * RATE },
      resampleHz: 96_000,
      paddingStart: { frames: 48_000, kind: 'room-tone' },
      paddingEnd: { frames: 96_000, kind: 'room-tone' },
      outputGainDb: -1.5,
      limit: null,
    });
    expect(read({ end: 2 }).trim).toEqual({ startFrame: 0, endFrame: 2 * RATE });
    expect(read({ start: 2 }).trim).toEqual({ startFrame: 2 * RATE, endFrame: null });
    expect(read({ 'padding-end': 1 }).paddingEnd).toEqual({ frames: RATE, kind: 'silence' });
  });

  test('a trim that leaves nothing is told', () => {
    expect(() => read({ start: 2, end: 2 })).toThrow(AppError);
    expect(() => read({ start: 2, end: 2 })).toThrow('Nothing is left between --start and --end');
  });

  test('each has a name of its own and says in lower case what it does', () => {
    const names = STEP_FLAGS.map(({ name }) => name);
    expect(new Set(names).size).toBe(names.length);
    for (const { help } of STEP_FLAGS) expect(help).toMatch(/^[a-z].*[^.]$/);
  });
});

test('a step by itself knows its name, its stage and what it is off', () => {
  expect(stepNamed('removeDc')).toMatchObject({ title: 'DC', stage: 'preparation', off: false });
  expect(stepNamed('limit')).toMatchObject({ title: 'Limiter', stage: 'levels', off: null });
  expect(stepNamed('dither')).toMatchObject({ title: 'Dither', stage: 'finish', off: null });
  expect(stepNamed('mix').off).toBe('stereo');
});
