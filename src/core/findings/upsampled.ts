import { formatNumber, formatSampleRate } from '../units/format';
import { advice, defineFinding } from './finding';

export const upsampled = defineFinding({
  code: 'upsampled',
  criterion: 'between 20 and 29 kHz the spectrum falls by 25 dB within 2 kHz, and by 40 dB in all',
  look({ inspection: { singleRateDropDb }, facts }) {
    if (singleRateDropDb === null || facts.bitDepth === null) return null;
    return advice(
      `Upsampled: the spectrum drops by ${formatNumber(singleRateDropDb, 0)} dB at 24 kHz, though the file is at ${formatSampleRate(facts.sampleRateHz)}. Ask for the original rate; this file is only larger.`,
    );
  },
});
