import { advice, defineFinding, timeOf } from './finding';

/** Longer than this is worth knowing, behind the last sound (common practice, no source). */
const LEAST_SECONDS = 5;

export const silenceBehind = defineFinding({
  code: 'silence-behind',
  step: 'trim',
  criterion: 'no true peak above −60 dBTP in the last five seconds or longer',
  placeName: 'Silence at end',
  look(looked) {
    const { readings, facts, sound } = looked;
    const frames = sound.lastFrame - sound.endFrame;
    if (readings.integratedLufs === null || frames < LEAST_SECONDS * facts.sampleRateHz) return null;
    return advice(`Silence at the end, from ${timeOf(sound.endFrame, looked)} to ${timeOf(sound.lastFrame, looked)}.`, [
      { startFrame: sound.endFrame, frames, channel: null },
    ]);
  },
});
