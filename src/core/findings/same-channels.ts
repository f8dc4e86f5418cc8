import { isLoudEnough } from './compared-level';
import { advice, defineFinding } from './finding';

export const sameChannels = defineFinding({
  code: 'same-channels',
  step: 'mix',
  criterion: 'the waveforms of two channels agree, to two steps of 16 bits in every 256 frames',
  look({ pair, readings }) {
    if (pair !== 'same' || !isLoudEnough(readings)) return null;
    return advice('Both channels are identical: dual mono. Was stereo intended?');
  },
});
