import { measure, stereo, tone } from '../../../tests/fixtures/signals';
import { NO_TAGS } from '../file-formats/tags';
import { edgesOf } from '../loudness/edges';
import type { Readings } from '../loudness/readings';
import { moveLevels } from '../treatment/forecast';
import { assess, describeSpec } from './assess';
import { type Verdict, verdictText } from './assessment';
import { SPECS, specById } from './catalogue';
import { factsOfFile, type MeasuredFile } from './facts';
import { specSchema } from './spec';
import { parseStoredVerdict } from './stored-verdict';

/** A WAV of 24 bits, 48 kHz, stereo. */
const WAV: MeasuredFile['format'] = {
  container: 'WAV',
  codec: 'PCM',
  sampleRateHz: 48_000,
  bitDepth: 24,
  bitRateBps: null,
  channels: 2,
  layout: 'stereo',
  durationSeconds: 6,
  track: null,
  decodeErrors: 0,
};

function judge(
  readings: Readings,
  specId: string,
  format: Partial<MeasuredFile['format']> = {},
  known: Partial<MeasuredFile> = {},
): Verdict {
  return assess(
    specById(specId),
    factsOfFile({ format: { ...WAV, ...format }, readings, nonFiniteSamples: 0, ...known }),
  );
}

function stateOf({ items }: Verdict, wanted: string): string | undefined {
  return items.find(({ key }) => key === wanted)?.state;
}
/** A steady tone that reads −23.0 LUFS by all measures, with its peak at −23 dBTP. */
const { readings: steady } = measure(stereo(tone([{ seconds: 6, levelDbfs: -23 }], 48_000)), 48_000);

test('the catalogue has the stable ids, each a valid spec with a basis', () => {
  expect(SPECS.map(({ id }) => id)).toEqual([
    'ebu-r128',
    'ebu-r128-short',
    'atsc-a85',
    'arib-tr-b32',
    'op-59',
    'radio-europe',
    'radio-us',
    'podcast-stereo',
    'podcast-mono',
    'streaming-music',
    'streaming-video',
    'aes-td1008-speech',
    'aes-td1008-music',
    'audiobook-retail',
    'cd-master',
    'premaster',
    'archive',
  ]);
  for (const spec of SPECS) {
    expect(specSchema.parse(spec)).toEqual(spec);
    expect(spec.basis.document).toMatch(/from memory|common practice, no source/);
  }
});

/**
 * Delivery numbers. Published: EBU R 128 (2020) and s1, ATSC A/85, ARIB TR-B32, Free TV OP-59, AES TD1008 (2021), all
 * from memory. The others: common practice, no source.
 */
test.each([
  ['ebu-r128', -23, -1],
  ['ebu-r128-short', -23, -1],
  ['atsc-a85', -24, -2],
  ['arib-tr-b32', -24, -1],
  ['op-59', -24, -2],
  ['radio-europe', -23, -1],
  ['radio-us', -24, -2],
  ['podcast-stereo', -16, -1],
  ['podcast-mono', -19, -1],
  ['streaming-music', -14, -1],
  ['streaming-video', -14, -1],
  ['aes-td1008-speech', -18, -1],
  ['aes-td1008-music', -16, -1],
])('%s asks %f LUFS and %f dBTP', (id, target, ceiling) => {
  const spec = specById(id);
  expect(spec.loudness).toMatchObject({ measure: 'integrated', target });
  expect(spec.peak).toMatchObject({ measure: 'true', ceiling });
});

test.each([
  ['ebu-r128', 0.49, 'inside'],
  ['ebu-r128', 0.52, 'over'],
  ['ebu-r128', -0.52, 'under'],
  ['atsc-a85', 0.9, 'inside'],
  ['atsc-a85', 1.1, 'over'],
  ['arib-tr-b32', -2.1, 'under'],
])('%s after %f dB is %s', (id, gainDb, state) => {
  const verdict = judge(moveLevels(steady, gainDb), id);
  expect(stateOf(verdict, 'loudness')).toBe(state);
  expect(verdict.inside).toBe(state === 'inside');
});

test('a deviation counts from the edge of the window, with its sign', () => {
  expect(judge(moveLevels(steady, 2), 'ebu-r128').items[0]).toMatchObject({ phrase: '2.0 LU over' });
  expect(judge(moveLevels(steady, 2), 'ebu-r128').items[0]?.deviation).toBeCloseTo(1.5, 1);
  expect(judge(moveLevels(steady, -2), 'ebu-r128').items[0]?.deviation).toBeCloseTo(-1.5, 1);
});

test('the short form limits short-term loudness and length as well (EBU R 128 s1, from memory)', () => {
  const burst = tone(
    [
      { seconds: 3, levelDbfs: -14 },
      { seconds: 60, levelDbfs: -24 },
    ],
    48_000,
  );
  const { readings } = measure(stereo(burst), 48_000);
  const verdict = judge(readings, 'ebu-r128-short', { durationSeconds: 120.5 });
  expect(stateOf(verdict, 'short-term')).toBe('over');
  expect(stateOf(verdict, 'duration')).toBe('over');
  expect(stateOf(judge(readings, 'ebu-r128-short', { durationSeconds: 120 }), 'duration')).toBe('inside');
});

describe('audiobook retail (common practice, no source)', () => {
  const hiss = (seconds: number, peak: number) => {
    let seed = 7;
    return Float32Array.from({ length: seconds * 44_100 }, () => {
      seed = (Math.imul(seed, 1664525) + 1013904223) | 0;
      return (peak * seed) / 2 ** 31;
    });
  };
  const joined = (...parts: Float32Array[]) => Float32Array.from(parts.flatMap((part) => [...part]));
  const speech = tone([{ seconds: 9, levelDbfs: -17 }], 44_100);
  const zeros = (seconds: number) => new Float32Array(Math.round(seconds * 44_100));
  /** Noise of −70 dBFS RMS. */
  const room = (seconds: number) => hiss(seconds, 10 ** (-70 / 20) * Math.sqrt(3));
  const MP3 = {
    container: 'MPEG audio',
    codec: 'MP3',
    sampleRateHz: 44_100,
    bitDepth: null,
    channels: 1,
    layout: 'mono',
    bitRateBps: 192_000,
    bitRateMode: 'constant' as const,
  };
  const verdictOf = (samples: Float32Array, format: Partial<MeasuredFile['format']> = {}) => {
    const { readings, series } = measure([samples], 44_100);
    return judge(readings, 'audiobook-retail', { ...MP3, ...format }, { edges: edgesOf(series.weightedPower) });
  };
  const missed = (verdict: Verdict) =>
    verdict.items.filter(({ inside }) => !inside).map(({ key, state }) => `${key} ${state}`);
  const chapter = joined(room(0.7), speech, room(2));

  test('a whole chapter is inside', () => {
    const verdict = verdictOf(chapter);
    expect(verdict.items.map(({ key }) => key)).toEqual([
      ...['loudness', 'peak', 'noise-floor', 'head', 'tail', 'room-tone', 'channels', 'file', 'bit-rate'],
    ]);
    expect({ missed: missed(verdict), inside: verdict.inside }).toEqual({ missed: [], inside: true });
    expect(verdictText(verdict)).toBe('inside');
  });

  test('a WAV, another bit rate, a variable one are not', () => {
    const pcm = { container: 'WAV', codec: 'PCM', bitDepth: 24, bitRateBps: null };
    expect(missed(verdictOf(chapter, pcm))).toEqual(['file missed']);
    expect(missed(verdictOf(chapter, { bitRateBps: 64_000 }))).toEqual(['bit-rate missed']);
    expect(missed(verdictOf(chapter, { bitRateMode: 'variable' }))).toEqual(['bit-rate missed']);
  });

  test('what can not be told is not assessed, and nothing is inside then', () => {
    const { bitRateMode: _, ...untold } = MP3;
    const { readings } = measure([chapter], 44_100);
    const verdict = judge(readings, 'audiobook-retail', untold);
    expect(missed(verdict)).toEqual(['head not-assessed', 'tail not-assessed', 'bit-rate not-assessed']);
    expect(verdict.inside).toBe(false);
    expect(verdictText(verdict)).toBe('levels inside; not assessed: head, tail, bit rate');
  });

  test('too long a start, none at the end', () => {
    const verdict = verdictOf(joined(room(3), speech));
    expect(missed(verdict)).toEqual(['head over', 'tail under']);
    expect(verdict.items.find(({ key }) => key === 'head')).toMatchObject({
      phrase: 'head 2.0 s over',
    });
  });

  test('digital silence is no room tone, and hides no noise', () => {
    const noisy = (seconds: number) => hiss(seconds, 10 ** (-45 / 20) * Math.sqrt(3));
    const verdict = verdictOf(joined(zeros(0.7), speech, noisy(2)));
    expect(missed(verdict)).toEqual(['noise-floor over', 'room-tone missed']);
    expect(verdict.items.find(({ key }) => key === 'noise-floor')?.measured).toBeCloseTo(-45, 0);
    expect(verdict.items.find(({ key }) => key === 'room-tone')?.found).toBe('digital silence: 0.70 s at the start');
    // No half-second but of zeros and of speech: nothing tells the floor of the room.
    const bare = verdictOf(joined(zeros(0.7), zeros(2)));
    expect(stateOf(bare, 'noise-floor')).toBe('not-assessed');
  });
});

test('a CD master is 16-bit, 44.1 kHz, stereo, and a file without loss', () => {
  const missed = (format: Partial<MeasuredFile['format']>) =>
    judge(steady, 'cd-master', format).items.filter(({ inside }) => !inside);
  expect(missed({}).map(({ name, state }) => [name, state])).toEqual([
    ['Sample rate', 'over'],
    ['Bit depth', 'over'],
  ]);
  expect(missed({ sampleRateHz: 44_100, bitDepth: 16 })).toEqual([]);
  const mp3 = { container: 'MPEG audio', codec: 'MP3', sampleRateHz: 44_100, bitDepth: null };
  expect(missed(mp3).map(({ name, found }) => [name, found])).toEqual([
    ['Bit depth', 'none: it is lossy'],
    ['File', 'MP3'],
  ]);
});

test('tags that are asked for are looked for in the file', () => {
  const tags = { ...NO_TAGS, title: 'Overture' };
  expect(stateOf(judge(moveLevels(steady, 0), 'archive'), 'tag-title')).toBe('not-assessed');
  expect(stateOf(judge(steady, 'archive', {}, { tags: NO_TAGS }), 'tag-title')).toBe('missed');
  expect(judge(steady, 'archive', {}, { tags }).inside).toBe(true);
});

test('how a premaster was made is not told by its file', () => {
  const verdict = judge(moveLevels(steady, 16), 'premaster');
  expect(verdict.items.filter(({ inside }) => !inside).map(({ state }) => state)).toEqual(['not-assessed']);
  expect(verdictText(verdict)).toMatch(/^levels inside; not assessed: limiter, dither/);
});

test('a mono file is not judged by the stereo podcast’s −16', () => {
  const verdict = judge(moveLevels(steady, 7), 'podcast-stereo', { channels: 1 });
  expect(verdict.items.find(({ key }) => key === 'channels')).toMatchObject({ inside: false, required: '2' });
});

test('silence has no loudness to be inside with, but breaks no ceiling', () => {
  const { readings } = measure(stereo(new Float32Array(48_000)), 48_000);
  const verdict = judge(readings, 'ebu-r128');
  expect(verdict.inside).toBe(false);
  expect(verdict.items.map(({ state }) => state)).toEqual(['not-assessed', 'inside']);
  expect(readings.digitalSilence).toEqual({ totalSeconds: 1, headSeconds: 1, tailSeconds: 1 });
});

test('a file that is not whole is not inside', () => {
  expect(judge(steady, 'ebu-r128', {}, { nonFiniteSamples: 3 }).inside).toBe(false);
  expect(judge(steady, 'ebu-r128', {}, { missingFrames: 100 }).inside).toBe(false);
  const damaged = judge(steady, 'ebu-r128', { decodeErrors: 2 });
  expect(damaged.items.at(-1)).toMatchObject({ state: 'missed', phrase: 'damaged: 2 decoding errors' });
});

test('every spec judges every requirement that it states, of a file that nothing is known of', () => {
  for (const spec of SPECS) {
    const verdict = judge(steady, spec.id);
    const asked = describeSpec(spec).filter(({ name, value }) => value !== '' && name !== 'Check by hand');
    // The loudness is described in two lines, what it is and how it is measured.
    const described = asked.filter(({ name }) => name !== 'Measured as' && name !== 'Bit rate').length;
    expect({ id: spec.id, items: verdict.items.length }).toEqual({ id: spec.id, items: described });
  }
});

test('verdicts that were stored before are read', () => {
  const stored = {
    specId: 'ebu-r128',
    inside: false,
    notJudged: [],
    items: [
      { name: 'Integrated', measured: null, unit: 'LUFS', required: '−23.0 ±0.5 LUFS', inside: false },
      { name: 'True peak', measured: -3, unit: 'dBTP', required: '≤ −1.0 dBTP', inside: true },
    ].map((item) => ({ ...item, state: item.inside ? 'inside' : 'not-measured', deviation: 0 })),
    checks: [{ name: 'File', found: 'WAV', required: 'MP3', inside: false }],
  };
  const verdict = parseStoredVerdict(stored);
  expect(verdict.items.map(({ state }) => state)).toEqual(['not-assessed', 'inside', 'missed']);
  expect(parseStoredVerdict(JSON.parse(JSON.stringify(verdict)))).toEqual(verdict);
});

test('an unknown id is refused with those that there are', () => {
  expect(() => specById('r128')).toThrow(/no spec "r128".*ebu-r128/);
});
