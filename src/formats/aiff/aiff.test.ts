import fc from 'fast-check';
import { isAppError } from '@/core/errors/app-error';
import { type AiffRecipe, buildAiff } from '../../../tests/fixtures/aiff';
import { bytesSource } from '../bytes';
import { readPcmHeader } from '../open-pcm';
import { PcmReader } from '../pcm-reader';

const FILE = 'mix.aiff';
const header = (recipe: AiffRecipe) => readPcmHeader(bytesSource(buildAiff(recipe)), FILE);

test('any rate, channels and depth are read as they were written', () =>
  fc.assert(
    fc.asyncProperty(
      fc.integer({ min: 8000, max: 384_000 }),
      fc.integer({ min: 1, max: 24 }),
      fc.integer({ min: 1, max: 32 }),
      fc.integer({ min: 1, max: 50 }),
      async (sampleRateHz, channels, bitDepth, frames) => {
        const data = new Uint8Array(frames * channels * Math.ceil(bitDepth / 8));
        const { format, encoding } = await header({ sampleRateHz, channels, bitDepth, data });
        expect(format).toMatchObject({ container: 'AIFF', sampleRateHz, channels, bitDepth, frames });
        expect(encoding).toEqual({ type: ['s8', 's16', 's24', 's32'][Math.ceil(bitDepth / 8) - 1], isBigEndian: true });
      },
    ),
  ));

test.each([
  ['NONE', 24, 's24', true],
  ['twos', 16, 's16', true],
  ['in24', 24, 's24', true],
  ['in32', 32, 's32', true],
  ['sowt', 16, 's16', false],
  ['sowt', 24, 's24', false],
  ['fl32', 32, 'f32', true],
  ['FL32', 32, 'f32', true],
  ['fl64', 64, 'f64', true],
  ['raw ', 8, 'u8', true],
] as const)('AIFF-C of kind %s with %i bits holds %s', async (kind, bitDepth, type, isBigEndian) => {
  const { format, encoding } = await header({ kind, bitDepth });
  expect(format).toMatchObject({ container: 'AIFF-C', frames: 10, bitDepth });
  expect(encoding).toEqual({ type, isBigEndian });
});

test('chunks stand in any order, odd ones are padded, unknown ones passed over', async () => {
  const ahead: [string, Uint8Array][] = [
    ['NAME', new Uint8Array(5)],
    ['ID3 ', new Uint8Array(300)],
  ];
  for (const isSoundFirst of [false, true]) {
    expect((await header({ ahead, isSoundFirst })).format.frames).toBe(10);
  }
});

test('samples behind an offset are found, and what stands behind the stated frames is none', async () => {
  const data = Uint8Array.from([0x40, 0, 0xc0, 0, 0x7f, 0xff, 0x7f, 0xff]);
  const bytes = buildAiff({ bitDepth: 16, channels: 1, data, frames: 2, offset: 6 });
  const reader = await PcmReader.open(bytesSource(bytes), FILE);
  const piece = await reader.next();
  expect(piece?.frames).toBe(2);
  expect([...(piece?.channels[0]?.subarray(0, 2) ?? [])]).toEqual([0.5, -0.5]);
  expect(await reader.next()).toBeUndefined();
});

test('an interrupted recording is read to its end, and one that is cut short counts what is missing', async () => {
  expect(await header({ isInterrupted: true })).toMatchObject({ sizeUnknown: true, format: { frames: 10 } });
  const cut = buildAiff().subarray(0, -12);
  expect(await readPcmHeader(bytesSource(cut), FILE)).toMatchObject({ missingFrames: 2, format: { frames: 8 } });
});

test.each([
  ['a compressed kind', { kind: 'ima4' }, 'unsupported-codec', /ima4/],
  ['no channels', { channels: 0, data: new Uint8Array(9) }, 'no-channels', /zero channels/],
  ['a rate that is none', { sampleRateHz: 5 }, 'unsupported-rate', /5 Hz/],
  ['a depth that is none', { bitDepth: 48 }, 'unsupported-depth', /48-bit/],
  ['no sound', { data: new Uint8Array() }, 'no-audio', /no audio/],
] as const)('%s is refused with its own sentence', async (_name, recipe, code, words) => {
  const error = await header(recipe).catch((thrown: unknown) => thrown);
  if (!isAppError(error, code)) throw error;
  expect(error.message).toMatch(words);
});
