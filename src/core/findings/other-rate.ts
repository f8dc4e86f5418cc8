import { formatSampleRate } from '../units/format';
import { advice, defineFinding } from './finding';

export const otherRate = defineFinding({
  code: 'other-rate',
  criterion: 'more than half of the job’s programmes share another sample rate',
  look({ facts: { sampleRateHz }, jobRatesHz }) {
    if (!jobRatesHz) return null;
    const counts = new Map<number, number>();
    for (const rate of jobRatesHz) counts.set(rate, (counts.get(rate) ?? 0) + 1);
    const [most] = [...counts].sort((a, b) => b[1] - a[1]);
    if (!most || most[0] === sampleRateHz || most[1] * 2 <= jobRatesHz.length) return null;
    return advice(
      `At ${formatSampleRate(sampleRateHz)}, while ${most[1]} of ${jobRatesHz.length} programmes of this job are at ${formatSampleRate(most[0])}.`,
    );
  },
});
