import { specById } from '../spec/catalogue';
import { commonFormat } from './common-format';

const book = specById('audiobook-retail');
const at = (sampleRateHz: number, channels = 1) => ({ sampleRateHz, channels });

test('programmes that are alike stay as they are', () => {
  expect(commonFormat(book, [at(44_100), at(44_100)])).toMatchObject({
    ...{ kind: 'mp3', mode: 'constant', sampleRateHz: null, arrangement: 'interleaved' },
  });
});

test('the rate that most have is that of all, and of two that as many have the higher', () => {
  expect(commonFormat(book, [at(48_000), at(44_100), at(44_100)]).sampleRateHz).toBe(44_100);
  expect(commonFormat(book, [at(48_000), at(44_100)]).sampleRateHz).toBe(48_000);
});

test('where some are mono, all are; more than two channels are not mixed', () => {
  expect(commonFormat(book, [at(44_100, 2), at(44_100)]).arrangement).toBe('mono');
  expect(commonFormat(specById('archive'), [at(48_000, 6), at(48_000)]).arrangement).toBe('interleaved');
});

test('what the spec asks comes first', () => {
  expect(commonFormat(specById('cd-master'), [at(48_000, 2), at(96_000, 2)])).toMatchObject({
    ...{ sampleRateHz: 44_100, bitDepth: 16, kind: 'wav' },
  });
});
