import { formatLevel } from '../units/format';
import { advice, defineFinding } from './finding';

/** An end that is no more than this below the programme has not faded (common practice, no source). */
const ENDS_WITHIN_LU = 15;

export const endsSounding = defineFinding({
  code: 'ends-sounding',
  criterion: 'the last whole 100 ms are less than 15 LU below the programme',
  placeName: 'Ends abruptly',
  look({ readings: { integratedLufs }, sound }) {
    const { endingLufs, endingStartFrame, endFrame, lastFrame } = sound;
    if (integratedLufs === null || endFrame !== lastFrame) return null;
    if (endingLufs === null || endingLufs <= integratedLufs - ENDS_WITHIN_LU) return null;
    return advice(`Ends abruptly, at ${formatLevel(endingLufs, 'LUFS')} in the last 100 ms; the tail may be cut.`, [
      { startFrame: endingStartFrame, frames: lastFrame - endingStartFrame, channel: null },
    ]);
  },
});
