import { formatBytes, formatGain, formatLevel, formatNumber, formatSampleRate, formatTime } from './format';

test('numbers carry a true minus, fixed decimals and no negative zero', () => {
  expect(formatNumber(-23)).toBe('−23.0');
  expect(formatNumber(-0.04)).toBe('0.0');
  expect(formatNumber(4.649, 1, { plus: true })).toBe('+4.6');
  expect(formatNumber(-0.0049, 2)).toBe('0.00');
  expect(formatGain(-12.756, 2)).toBe('−12.76 dB');
});

test('levels carry their unit, and silence has words', () => {
  expect(formatLevel(-1, 'dBTP')).toBe('−1.0 dBTP');
  expect(formatLevel(null, 'LUFS')).toBe('not measured');
});

test.each([
  [252.48, true, '4:12.480'],
  [252.48, false, '4:12'],
  [3725.0006, true, '1:02:05.001'],
  [59.9996, true, '1:00.000'],
  [0, false, '0:00'],
])('%f s (milliseconds %s) reads %s', (seconds, milliseconds, text) => {
  expect(formatTime(seconds, { milliseconds })).toBe(text);
});

test('rates and sizes read as the trade writes them', () => {
  expect(formatSampleRate(44_100)).toBe('44.1 kHz');
  expect(formatSampleRate(11_025)).toBe('11.025 kHz');
  expect(formatBytes(0)).toBe('0 B');
  expect(formatBytes(999)).toBe('999 B');
  expect(formatBytes(8_640_044)).toBe('8.6 MB');
  expect(formatBytes(999_600_000)).toBe('1.0 GB');
  expect(formatBytes(2_073_600_044)).toBe('2.1 GB');
});
