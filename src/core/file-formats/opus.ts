import { bitRateArguments, type FileFormat } from './file-format';

const RATES_KBPS = [450, 320, 256, 192, 160, 128, 96, 64, 48, 32, 24];

export const opus: FileFormat = {
  name: 'Opus',
  extensions: ['opus'],
  mediaType: 'audio/ogg',
  matches: ({ container, codec }) => container === 'Ogg' && codec === 'Opus',
  depths: [],
  ratesHz: [48_000, 24_000, 16_000, 12_000, 8000],
  mostChannels: 8,
  // FFmpeg's encoder of 5.1 puts the centre of 5.0 and the sides of 6.1 into other channels, as another decoder shows.
  layouts: ['lcr', 'quad', '5.1', '7.1'],
  modes: ['variable', 'constant'],
  bitRatesKbps: { variable: RATES_KBPS, constant: RATES_KBPS },
  defaultKbps: 128,
  bitRateLimits: (channels) => ({ least: 12 * channels, most: 255 * channels }),
  tags: 'library',
  loudnessTags: 'r128-gain',
  chapters: 'comments',
  hasAdm: false,
  statesLength: true,
  // A decoder has found its way after 80 ms (RFC 7845, section 4.6).
  context: (sampleRateHz) => ({ aheadFrames: 0.08 * sampleRateHz, behindFrames: 0.02 * sampleRateHz }),
  headerBytes: 0,
  encoder: {
    arguments: (settings) => [
      ...['-c:a', 'libopus', ...bitRateArguments(settings), '-vbr', settings.mode === 'constant' ? 'off' : 'on'],
      ...['-f', 'opus'],
    ],
  },
};
