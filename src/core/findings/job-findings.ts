import { formatSampleRate } from '../units/format';
import { advice, type Finding } from './finding';

/**
 * What is odd about a programme beside the others of its job: a sample rate that most of them don't have.
 *
 * @param ratesHz of all programmes of the job, this one included
 */
export function rateFindings(sampleRateHz: number, ratesHz: readonly number[]): Finding[] {
  const counts = new Map<number, number>();
  for (const rate of ratesHz) counts.set(rate, (counts.get(rate) ?? 0) + 1);
  const [most] = [...counts].sort((a, b) => b[1] - a[1]);
  if (!most || most[0] === sampleRateHz || most[1] * 2 <= ratesHz.length) return [];
  return [
    advice(
      'other-rate',
      `At ${formatSampleRate(sampleRateHz)}, while ${most[1]} of ${ratesHz.length} programmes of this job are at ${formatSampleRate(most[0])}.`,
    ),
  ];
}
