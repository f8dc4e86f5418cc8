import { bitRateArguments, type Encoder } from './encoder';

/** LAME's qualities by the rate in kbit/s that they come to in stereo (from memory of its documentation). */
const QUALITIES: Readonly<Record<number, number>> = {
  245: 0,
  225: 1,
  190: 2,
  175: 3,
  165: 4,
  130: 5,
  115: 6,
  100: 7,
};

export const mp3: Encoder = {
  arguments: (settings) => {
    const quality = ['-q:a', `${QUALITIES[settings.bitRateKbps ?? 190] ?? 2}`];
    return [
      ...['-c:a', 'libmp3lame', ...(settings.mode === 'variable' ? quality : bitRateArguments(settings))],
      ...['-id3v2_version', '3', '-f', 'mp3'],
    ];
  },
};
