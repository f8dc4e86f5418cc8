import { formatNumber } from '../units/format';
import type { ReductionFigures } from './reduction';

/** More than this is heard before it is wanted (common practice, no source). */
export const MUCH_REDUCTION_DB = 3;

export function isMuchReduction(reduction: Pick<ReductionFigures, 'greatestDb'> | null): boolean {
  return reduction !== null && reduction.greatestDb > MUCH_REDUCTION_DB + 0.05;
}

/** Such as "limits by up to 5.4 dB, during 12 % of the time". */
export function reductionText({ greatestDb, shareOfTime }: ReductionFigures): string {
  const percent = 100 * shareOfTime;
  const share = percent > 0 && percent < 0.1 ? 'less than 0.1' : formatNumber(percent, percent < 10 ? 1 : 0);
  return `limits by up to ${formatNumber(greatestDb)} dB, during ${share} % of the time`;
}
