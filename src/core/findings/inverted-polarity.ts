import { isLoudEnough } from './compared-level';
import { breach, defineFinding } from './finding';

export const invertedPolarity = defineFinding({
  code: 'inverted-polarity',
  step: 'mix',
  criterion: 'the waveforms of two channels agree upside down, to two steps of 16 bits in every 256 frames',
  short: () => 'inverted polarity',
  look({ pair, readings }) {
    if (pair !== 'inverted' || !isLoudEnough(readings)) return null;
    return breach('One channel has inverted polarity; mono cancels. Invert one channel.');
  },
});
