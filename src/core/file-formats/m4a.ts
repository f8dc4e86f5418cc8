import { bitRateArguments, type FileFormat, RATES_TO_96K_HZ } from './file-format';

export const m4a: FileFormat = {
  name: 'AAC',
  extensions: ['m4a', 'm4b'],
  mediaType: 'audio/mp4',
  matches: ({ container, codec }) => container === 'MPEG-4' && codec === 'AAC',
  depths: [],
  ratesHz: RATES_TO_96K_HZ,
  mostChannels: 8,
  // Those that the format numbers: others have to be described, and not every decoder reads that.
  layouts: ['lcr', '5.0', '5.1', '7.1'],
  modes: ['average'],
  bitRatesKbps: { average: [512, 448, 384, 320, 256, 224, 192, 160, 128, 96, 64] },
  defaultKbps: 192,
  // No frame of 1024 samples holds more than 6144 bits a channel; the encoder is held well below.
  bitRateLimits: (channels, sampleRateHz) => ({
    least: 32 * channels,
    most: Math.min(512, Math.floor((5 * channels * sampleRateHz) / 1000)),
  }),
  tags: 'library',
  loudnessTags: 'replay-gain',
  chapters: 'container',
  hasAdm: false,
  statesLength: true,
  playsOutLastPacket: true,
  // Four packets: each fades into the next, and the encoder spares bits in its first.
  context: () => ({ aheadFrames: 4096, behindFrames: 2048 }),
  headerBytes: 0,
  encoder: {
    arguments: (settings) => [
      // Noise in place of what is left out, and one channel in place of two, move peaks by a decibel from one coding to the next.
      ...['-c:a', 'aac', ...bitRateArguments(settings), '-aac_pns', '0', '-aac_is', '0'],
      // Its edit list counts in the movie's own time, which is milliseconds unless it is told to be frames.
      ...['-movie_timescale', `${settings.sampleRateHz}`, '-movflags', '+faststart', '-f', 'ipod'],
    ],
  },
};
