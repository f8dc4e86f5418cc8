import fc from 'fast-check';
import { deliveryFormatSchema } from '../../delivery/format';
import { isAppError } from '../../errors/app-error';
import { FILE_KINDS, isLossy } from '../../file-formats/file-formats';
import { gainOnly } from '../../treatment/treatment';
import { mixAmong, planStems, stemDifferences, withToneAt, writtenToleranceDb } from './stems';

const FORMAT = { sampleRateHz: 48_000, channels: 2, bitDepth: 24, frames: 480_000 };

test.each<[string[], number]>([
  [['song_bass', 'song_mix', 'song_pads'], 1],
  [['song bass', 'song stereo mix'], 1],
  [['Drums', 'Mixdown', 'Bass'], 1],
  [['drums', 'SONG MASTER'], 1],
  [['song-2mix', 'song-vox'], 0],
  // What all others begin with.
  [['dawn_pads', 'dawn', 'dawn_drums'], 1],
  // Nobody can tell.
  [['song_bass', 'song_pads'], -1],
  [['song_mix', 'song_mix 2 print'], -1],
  [['remixed drums', 'bass'], -1],
  [['song'], -1],
  [[], -1],
])('the mix among %j is number %i', (names, index) => {
  expect(mixAmong(names)).toBe(index);
});

test('a file that is alike has no difference; whatever differs is told, and what can not be compared blocks', () => {
  expect(stemDifferences(FORMAT, { ...FORMAT })).toEqual([]);
  const told = (change: Partial<typeof FORMAT> | { bitDepth: null }) =>
    stemDifferences(FORMAT, { ...FORMAT, ...change }).map(({ kind, text, isBlocking }) => [kind, text, isBlocking]);
  expect(told({ sampleRateHz: 44_100 })).toEqual([['rate', '44.1 kHz, and the mix 48 kHz', true]]);
  expect(told({ channels: 1 })).toEqual([['channels', 'mono, and the mix stereo', true]]);
  expect(told({ channels: 6 })).toEqual([['channels', '6 channels, and the mix stereo', true]]);
  expect(told({ bitDepth: 16 })).toEqual([['depth', '16 bit, and the mix 24 bit', false]]);
  expect(told({ bitDepth: null })).toEqual([['depth', 'lossy, and the mix 24 bit', false]]);
  expect(told({ frames: 479_999 })).toEqual([['length', '0:10.000: 1 frame shorter than the mix', false]]);
  expect(told({ frames: 528_000 })).toEqual([['length', '0:11.000: 48000 frames longer than the mix', false]]);
});

test('only what loses nothing adds up', () => {
  for (const kind of FILE_KINDS) {
    const plan = () => planStems(gainOnly(2), FORMAT, deliveryFormatSchema.parse({ kind }));
    if (!isLossy(kind)) {
      expect(plan().format).toMatchObject({ kind, channels: 2, sampleRateHz: 48_000 });
      continue;
    }
    let thrown: unknown;
    try {
      plan();
    } catch (error) {
      thrown = error;
    }
    expect(isAppError(thrown, 'format-impossible')).toBe(true);
  }
});

test('lengths keep their time at another rate, and the treatment of the mix is that of all', () => {
  const treatment = { ...gainOnly(3), fadeIn: { frames: 4800, shape: 'linear' as const } };
  const plan = planStems(treatment, FORMAT, deliveryFormatSchema.parse({ kind: 'wav', sampleRateHz: 96_000 }));
  expect(plan.treatment).toMatchObject({ gainDb: 3, fadeIn: { frames: 9600 }, resampleHz: 96_000 });
});

test('room tone is put where it was found, and nothing else is', () => {
  fc.assert(
    fc.property(fc.nat(1e6), fc.integer({ min: 1, max: 1e5 }), (startFrame, frames) => {
      const padded = {
        ...gainOnly(0),
        paddingStart: { frames, kind: 'room-tone' as const },
        paddingEnd: { frames, kind: 'silence' as const },
      };
      const settled = withToneAt(padded, { startFrame, frames: 24_000 });
      expect(settled.paddingStart).toEqual({ frames, kind: 'room-tone', toneStartFrame: startFrame });
      expect(settled.paddingEnd).toEqual(padded.paddingEnd);
      expect(withToneAt(gainOnly(0), { startFrame, frames: 24_000 })).toEqual(gainOnly(0));
    }),
  );
});

test('what may be left is above the dither of a dozen files, and below what is heard', () => {
  // TPDF dither and the rounding: a quarter of a step squared, for each file (textbook formula).
  const ditherDb = (bits: number, files: number) => 10 * Math.log10((files * (2 / 2 ** bits) ** 2) / 4);
  const tolerance = (bitDepth: 16 | 24 | 32) =>
    writtenToleranceDb({
      ...planStems(gainOnly(0), FORMAT, deliveryFormatSchema.parse({ kind: 'wav' })).format,
      bitDepth,
    });
  expect(tolerance(16)).toBeGreaterThan(ditherDb(16, 12) + 3);
  expect(tolerance(24)).toBeGreaterThan(ditherDb(24, 12) + 3);
  expect(tolerance(32)).toBe(-120);
});
