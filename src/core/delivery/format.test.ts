import * as fc from 'fast-check';
import { FILE_FORMATS, FILE_KINDS, kindOfName, RATE_MODES } from '../file-formats/file-formats';
import { fileSize } from './file-size';
import {
  ARRANGEMENTS,
  type DeliveryFormat,
  type DeliveryFormatInput,
  deliveryFormatSchema,
  describeFormat,
  formatProblems,
  resolveFormat,
} from './format';

const format = (input: DeliveryFormatInput) => deliveryFormatSchema.parse(input);
const STEREO_48 = { channels: 2, sampleRateHz: 48_000 };

test.each<[DeliveryFormatInput, { channels: number; sampleRateHz: number }, RegExp, Partial<DeliveryFormat>]>([
  [{ kind: 'mp3' }, { channels: 8, sampleRateHz: 48_000 }, /one or two channels, and there are 8/, { kind: 'flac' }],
  [{ kind: 'ac3' }, { channels: 8, sampleRateHz: 48_000 }, /up to 6 channels/, { kind: 'wav' }],
  [{ kind: 'ac3' }, { channels: 1, sampleRateHz: 96_000 }, /AC-3 is not written at 96 kHz/, { sampleRateHz: 48_000 }],
  [{ kind: 'opus', sampleRateHz: 44_100 }, STEREO_48, /Opus is not written at 44.1 kHz/, { sampleRateHz: 48_000 }],
  [{ kind: 'mp3' }, { channels: 2, sampleRateHz: 96_000 }, /MP3 is not written at 96 kHz/, { sampleRateHz: 48_000 }],
  [{ kind: 'flac', bitDepth: 32 }, STEREO_48, /FLAC has no floating-point samples/, { bitDepth: 24 }],
  [{ kind: 'flac' }, { channels: 12, sampleRateHz: 48_000 }, /up to 8 channels/, { kind: 'wav' }],
  [{ kind: 'mp3', bitRateKbps: 200 }, STEREO_48, /200 kbit\/s in stereo/, { bitRateKbps: 192 }],
  [{ kind: 'mp3', bitRateKbps: 320, sampleRateHz: 24_000 }, STEREO_48, /at 24 kHz/, { bitRateKbps: 160 }],
  [{ kind: 'mp2', bitRateKbps: 384 }, { channels: 1, sampleRateHz: 48_000 }, /in mono/, { bitRateKbps: 192 }],
  [{ kind: 'm4a', mode: 'constant' }, STEREO_48, /written at average rate, not at constant/, { mode: 'average' }],
  [{ kind: 'wav', mode: 'variable' }, STEREO_48, /no bit rate to choose/, { mode: null }],
  [{ kind: 'mp3', arrangement: 'split' }, STEREO_48, /not split/, { arrangement: 'interleaved' }],
  [
    { kind: 'wav', arrangement: 'mono' },
    { channels: 6, sampleRateHz: 48_000 },
    /there are 6/,
    { arrangement: 'interleaved' },
  ],
])('%j of %j is explained, and the nearest is offered', (input, programme, text, nearest) => {
  const [problem] = formatProblems(format(input), programme);
  expect(problem?.text).toMatch(text);
  expect(problem?.nearest).toMatchObject(nearest);
});

test('every kind can be written of a stereo programme at 48 kHz as it comes', () => {
  for (const kind of FILE_KINDS) expect(formatProblems(format({ kind }), STEREO_48)).toEqual([]);
});

test('taking what is offered, again and again, always ends in something that can be written', () => {
  const anyFormat = fc.record({
    kind: fc.constantFrom(...FILE_KINDS),
    arrangement: fc.constantFrom(...ARRANGEMENTS),
    sampleRateHz: fc.option(fc.constantFrom(8000, 11_025, 22_050, 44_100, 48_000, 88_200, 96_000, 192_000)),
    bitDepth: fc.option(fc.constantFrom(16 as const, 24 as const, 32 as const)),
    mode: fc.option(fc.constantFrom(...RATE_MODES)),
    bitRateKbps: fc.option(fc.integer({ min: 8, max: 1024 })),
  });
  const anyProgramme = fc.record({
    channels: fc.integer({ min: 1, max: 24 }),
    sampleRateHz: fc.constantFrom(8000, 44_100, 48_000, 96_000, 192_000),
  });
  fc.assert(
    fc.property(anyFormat, anyProgramme, (input, programme) => {
      let wanted = format(input);
      for (let step = 0; step < 8; step++) {
        const [problem] = formatProblems(wanted, programme);
        if (!problem) return true;
        wanted = problem.nearest;
      }
      return false;
    }),
    { numRuns: 2000 },
  );
});

test('what is left open is settled as is usual, and told in a few words', () => {
  const told = (input: DeliveryFormatInput) => describeFormat(resolveFormat(format(input), STEREO_48));
  expect(told({ kind: 'wav' })).toBe('WAV 24-bit · 48 kHz');
  expect(told({ kind: 'wav', bitDepth: 16, sampleRateHz: 44_100, dither: 'shaped' })).toBe(
    'WAV 16-bit · 44.1 kHz · shaped dither',
  );
  expect(told({ kind: 'mp3', arrangement: 'mono' })).toBe('MP3 192 constant · 48 kHz · mono');
  expect(told({ kind: 'opus' })).toBe('Opus 128 variable · 48 kHz');
  expect(told({ kind: 'bw64', bitDepth: 32, arrangement: 'split' })).toBe('BW64 32-bit float · 48 kHz · split');
});

test('a name asks for a kind', () => {
  expect(kindOfName('a.b.M4A')).toBe('m4a');
  expect(kindOfName('x.aif')).toBe('aiff');
  expect(kindOfName('x.txt')).toBeUndefined();
  for (const kind of FILE_KINDS) {
    expect(FILE_FORMATS[kindOfName(`x.${FILE_FORMATS[kind].extensions[0]}`) ?? 'mp2'].extensions[0]).toBe(
      FILE_FORMATS[kind].extensions[0],
    );
  }
});

test('sizes are known for PCM and constant rates', () => {
  const size = (input: DeliveryFormatInput) =>
    fileSize(resolveFormat(format(input), STEREO_48), 48_000 * 60, { rmsDbfs: -20 });
  expect(size({ kind: 'wav' })).toMatchObject({ bytes: 17_280_000 + 1200, isExact: true });
  expect(size({ kind: 'mp3' })).toMatchObject({ bytes: 1_440_000, isExact: true });
  expect(size({ kind: 'flac' }).isExact).toBe(false);
  expect(size({ kind: 'flac' }).bytes).toBeLessThan(17_280_000);
});
