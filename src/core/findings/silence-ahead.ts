import { advice, defineFinding, timeOf } from './finding';

/** Longer than this is worth knowing, ahead of the first sound (common practice, no source). */
const LEAST_SECONDS = 1;

export const silenceAhead = defineFinding({
  code: 'silence-ahead',
  step: 'trim',
  criterion: 'no true peak above −60 dBTP in the first second or longer',
  placeName: 'Silence at start',
  look(looked) {
    const { readings, facts, sound } = looked;
    if (readings.integratedLufs === null || sound.startFrame < LEAST_SECONDS * facts.sampleRateHz) return null;
    return advice(`Silence at the start, until ${timeOf(sound.startFrame, looked)}. Is that intended?`, [
      { startFrame: 0, frames: sound.startFrame, channel: null },
    ]);
  },
});
