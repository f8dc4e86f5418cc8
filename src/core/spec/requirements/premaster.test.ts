import { type Facts, type Making, unknown } from '../facts';
import { premaster } from './premaster';

const making: Making = {
  isLimited: false,
  isDithered: false,
  sampleRateHz: 48_000,
  bitDepth: 24,
  isTailWhole: true,
  source: { sampleRateHz: 48_000, bitDepth: 24, sampleFormat: 'integer' },
};
const assessed = (change: Partial<Making> = {}) =>
  premaster.assess({ isPremaster: true }, { making: { ...making, ...change } } as Facts);
const missed = (change: Partial<Making>) =>
  assessed(change).flatMap(({ inside, name, found, required }) => (inside ? [] : `${name}: ${found}, ${required}`));

test('a premaster is as its source is, and nothing was done to it that cannot be undone', () => {
  expect(assessed().map(({ key, inside }) => [key, inside])).toEqual([
    ['premaster-Limiter', true],
    ['premaster-Dither', true],
    ['premaster-Rate of the source', true],
    ['premaster-Depth of the source', true],
    ['premaster-Tail', true],
  ]);
  expect(assessed().map(({ found }) => found)).toEqual(['none', 'none', '48 kHz', '24-bit', 'whole']);
});

test.each<[Partial<Making>, string]>([
  [{ isLimited: true }, 'Limiter: on, none'],
  [{ isDithered: true }, 'Dither: on, none'],
  [{ sampleRateHz: 44_100 }, 'Rate of the source: 44.1 kHz, 48 kHz'],
  [{ isTailWhole: false }, 'Tail: cut or faded, whole'],
  [{ source: { ...making.source, bitDepth: 16 } }, 'Depth of the source: 24-bit, 16-bit: more bits hold no more of it'],
])('%o is missed', (change, text) => expect(missed(change)).toEqual([text]));

test.each<[Partial<Making>, string]>([
  // Fewer bits, the same, or floats of what had 24: nothing was made up.
  [{ bitDepth: 16 }, '16-bit'],
  [{ bitDepth: 32 }, '32-bit float'],
  [{ bitDepth: 32, source: { sampleRateHz: 48_000, bitDepth: 32, sampleFormat: 'float' } }, '32-bit float'],
  [{ bitDepth: 16, source: { ...making.source, bitDepth: 8 } }, '16-bit'],
  [{ source: { ...making.source, bitDepth: null } }, '24-bit'],
])('%o is no depth that was raised', (change, found) => {
  expect(missed(change)).toEqual([]);
  expect(assessed(change)[3]?.found).toBe(found);
});

test('what is chosen later, or was made elsewhere, is not assessed', () => {
  const later = assessed({ isDithered: unknown('chosen at hand-over'), bitDepth: unknown('chosen at hand-over') });
  expect(later.flatMap(({ state, name }) => (state === 'not-assessed' ? name : []))).toEqual([
    'Dither',
    'Depth of the source',
  ]);
  const elsewhere = premaster.assess({ isPremaster: true }, { making: unknown('made elsewhere') } as Facts);
  expect(elsewhere).toMatchObject([{ key: 'premaster', state: 'not-assessed', why: 'made elsewhere' }]);
  expect(premaster.assess({}, { making } as Facts)).toEqual([]);
});

test('its form says yes or nothing', () => {
  expect(premaster.form.show({ isPremaster: true })).toEqual({ premaster: ['yes'] });
  expect(premaster.form.show({})).toEqual({ premaster: [] });
  expect(premaster.describe({})[0]?.value).toBe('');
  expect(premaster.describe({ isPremaster: true })[0]?.value).toContain('no limiter');
});
