import { formatNumber } from '../units/format';
import { isLoudEnough } from './compared-level';
import { breach, defineFinding } from './finding';

/** Wide mixes and rooms come near to 0; below this, a side is turned or delayed (common practice, no source). */
const MOST_CORRELATION = -0.3;

export const worksAgainst = defineFinding({
  code: 'works-against',
  criterion: 'two channels’ correlation is −0.3 or less where it is loudest; what mono loses is told',
  look({ pair, readings, inspection: { pair: figures } }) {
    if (pair !== 'different' || !figures || figures.correlation > MOST_CORRELATION || !isLoudEnough(readings))
      return null;
    return breach(
      `The channels cancel in mono: correlation ${formatNumber(figures.correlation, 2)} at the loudest place, ${formatNumber(figures.monoLossDb)} dB lost in mono. Is the polarity of one inverted?`,
    );
  },
});
