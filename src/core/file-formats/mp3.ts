import { type FileFormat, MPEG_RATES_HZ } from './file-format';

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
  headerBytes: 0,
};
