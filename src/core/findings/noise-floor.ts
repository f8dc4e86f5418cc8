import { formatLevel } from '../units/format';
import { advice, defineFinding, timeOf } from './finding';

/** Spoken word is asked to stand on less noise than this (audiobook shops; common practice, no source). */
const LEAST_NOISE_DBFS = -60;
/** Noise that is so near to the programme is a part of it. */
const LEAST_UNDER_PROGRAMME_DB = 15;

export const noiseFloor = defineFinding({
  code: 'noise-floor',
  criterion:
    'the quietest half-second is as even as noise (7 dB over 25 ms parts, flatness 0.12 from 200 Hz to 8 kHz), above −60 dBFS RMS and 15 dB below the programme',
  look(looked) {
    const { rmsDbfs } = looked.readings;
    const { pause } = looked.inspection;
    if (!pause?.isNoise || pause.rmsDbfs <= LEAST_NOISE_DBFS) return null;
    if (rmsDbfs === null || pause.rmsDbfs > rmsDbfs - LEAST_UNDER_PROGRAMME_DB) return null;
    const { startFrame, frames } = pause;
    return advice(
      `Noise floor in pauses: ${formatLevel(pause.rmsDbfs, 'dBFS')} RMS, unweighted (at ${timeOf(startFrame, looked)}). Gain raises it too.`,
      [{ startFrame, frames, channel: null }],
    );
  },
});
