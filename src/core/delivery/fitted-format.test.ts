import { specById } from '../spec/catalogue';
import type { Spec } from '../spec/spec';
import { fittedFormat } from './fitted-format';
import { type DeliveryFormatInput, deliveryFormatSchema } from './format';

const PLAIN: Spec = { ...specById('ebu-r128'), files: undefined, sampleRatesHz: undefined } as Spec;
const fitted = (input: DeliveryFormatInput, asked: Partial<Spec> = {}) =>
  fittedFormat(deliveryFormatSchema.parse(input), { ...PLAIN, ...asked });

test('what a spec does not speak of stays', () => {
  const format = deliveryFormatSchema.parse({ kind: 'wav', bitDepth: 24, sampleRateHz: 96_000, arrangement: 'split' });
  expect(fittedFormat(format, PLAIN)).toEqual(format);
});

test('a kind that is not accepted becomes the first that is, at a mode that it has', () => {
  expect(
    fitted({ kind: 'wav', bitDepth: 24 }, { files: ['mp3', 'm4a'], bitRate: { leastKbps: 192, modes: ['constant'] } }),
  ).toMatchObject({
    kind: 'mp3',
    bitDepth: null,
    mode: 'constant',
    bitRateKbps: null,
  });
  const kept = { kind: 'm4a', bitRateKbps: 256, mode: 'average' } as const;
  expect(fitted(kept, { files: ['mp3', 'm4a'] })).toMatchObject(kept);
});

test('a depth that is not accepted becomes the first of the kind that is', () => {
  expect(fitted({ kind: 'wav', bitDepth: 24 }, { bitDepths: [16] }).bitDepth).toBe(16);
  expect(fitted({ kind: 'wav', bitDepth: 24 }, { bitDepths: [16, 24] }).bitDepth).toBe(24);
  expect(fitted({ kind: 'wav' }, { bitDepths: [16] }).bitDepth).toBe(16);
  expect(fitted({ kind: 'wav' }).bitDepth).toBeNull();
  expect(fitted({ kind: 'mp3' }, { files: ['flac'], bitDepths: [24] }).bitDepth).toBe(24);
});

test('a rate that is not accepted, or not stated, becomes the first that is', () => {
  expect(fitted({ kind: 'wav', sampleRateHz: 96_000 }, { sampleRatesHz: [48_000, 44_100] }).sampleRateHz).toBe(48_000);
  expect(fitted({ kind: 'wav', sampleRateHz: 44_100 }, { sampleRatesHz: [48_000, 44_100] }).sampleRateHz).toBe(44_100);
  expect(fitted({ kind: 'wav' }, { sampleRatesHz: [48_000] }).sampleRateHz).toBe(48_000);
});

test('a spec of one channel asks for a mono file', () => {
  expect(fitted({ kind: 'wav' }, { channels: [1] }).arrangement).toBe('mono');
  expect(fitted({ kind: 'wav', arrangement: 'split' }, { channels: [1, 2] }).arrangement).toBe('split');
  expect(fitted({ kind: 'wav', arrangement: 'split' }, { channels: [2] }).arrangement).toBe('split');
});
