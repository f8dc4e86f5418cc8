import { formatSampleRate } from '../units/format';
import { advice, defineFinding } from './finding';

export const otherRate = defineFinding({
  code: 'other-rate',
  step: 'resampleHz',
  criterion: 'more than half of the job’s programmes share another sample rate',
  look({ facts: { sampleRateHz }, jobRates }) {
    if (!jobRates) return null;
    const all = [...jobRates.values()].reduce((sum, programmes) => sum + programmes, 0);
    const [most] = [...jobRates].sort((a, b) => b[1] - a[1]);
    if (!most || most[0] === sampleRateHz || most[1] * 2 <= all) return null;
    return advice(
      `At ${formatSampleRate(sampleRateHz)}, while ${most[1]} of ${all} programmes of this job are at ${formatSampleRate(most[0])}.`,
    );
  },
});
