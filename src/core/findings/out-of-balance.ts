import { formatNumber } from '../units/format';
import { advice, defineFinding } from './finding';

/** A side that is so much louder over the whole programme is seldom meant (common practice, no source). */
const LEAST_IMBALANCE_LU = 3;

export const outOfBalance = defineFinding({
  code: 'out-of-balance',
  criterion: 'L and R differ by 3 LU or more over the whole programme',
  look({ leftOverRightLu: byLu }) {
    if (byLu === null || Math.abs(byLu) < LEAST_IMBALANCE_LU) return null;
    const [louder, softer] = byLu > 0 ? ['L', 'R'] : ['R', 'L'];
    return advice(
      `${louder} is ${formatNumber(Math.abs(byLu))} LU louder than ${softer} over the whole programme. Is that intended?`,
    );
  },
});
