import { bitRateArguments, type FileFormat, MPEG_RATES_HZ } from './file-format';

export const mp2: FileFormat = {
  name: 'MP2',
  extensions: ['mp2'],
  mediaType: 'audio/mpeg',
  matches: ({ container, codec }) => container === 'MPEG audio' && codec === 'MP2',
  depths: [],
  ratesHz: MPEG_RATES_HZ,
  mostChannels: 2,
  modes: ['constant'],
  bitRatesKbps: { constant: [384, 320, 256, 224, 192, 160, 128, 112, 96, 80, 64, 56, 48, 32] },
  defaultKbps: 256,
  bitRateLimits: (channels, sampleRateHz) => {
    if (sampleRateHz < 32_000) return { least: 32, most: 160 };
    return channels === 1 ? { least: 32, most: 192 } : { least: 64, most: 384 };
  },
  tags: null,
  loudnessTags: null,
  chapters: null,
  hasAdm: false,
  // A bare stream has no place to say what its encoder put at its start and end.
  statesLength: false,
  // Of its filter bank, as FFmpeg has it.
  encoderDelayFrames: 481,
  headerBytes: 0,
  encoder: {
    // It takes integers of 16 bits only, and would drop the rest without dither.
    depth: 16,
    arguments: (settings) => ['-c:a', 'mp2', ...bitRateArguments(settings), '-f', 'mp2'],
  },
};
