import { bitRateArguments, type FileFormat, MPEG_RATES_HZ } from './file-format';

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

export const mp3: FileFormat = {
  name: 'MP3',
  extensions: ['mp3'],
  mediaType: 'audio/mpeg',
  matches: ({ container, codec }) => container === 'MPEG audio' && codec === 'MP3',
  depths: [],
  ratesHz: MPEG_RATES_HZ,
  mostChannels: 2,
  modes: ['constant', 'variable'],
  bitRatesKbps: {
    constant: [320, 256, 224, 192, 160, 128, 112, 96, 80, 64, 56, 48, 40, 32],
    variable: [245, 225, 190, 175, 165, 130, 115, 100],
  },
  defaultKbps: 192,
  // MPEG-2 ends at 160.
  bitRateLimits: (_, sampleRateHz) => (sampleRateHz < 32_000 ? { least: 32, most: 160 } : { least: 32, most: 320 }),
  tags: 'library',
  loudnessTags: 'replay-gain',
  chapters: 'container',
  hasAdm: false,
  statesLength: true,
  // Two frames of 1152: with the encoder's own delay they stay below the 4095 that its header can state.
  context: () => ({ aheadFrames: 2304, behindFrames: 1152 }),
  headerBytes: 0,
  encoder: {
    arguments: (settings) => {
      const quality = ['-q:a', `${QUALITIES[settings.bitRateKbps ?? 190] ?? 2}`];
      return [
        ...['-c:a', 'libmp3lame', ...(settings.mode === 'variable' ? quality : bitRateArguments(settings))],
        ...['-id3v2_version', '3', '-f', 'mp3'],
      ];
    },
  },
};
