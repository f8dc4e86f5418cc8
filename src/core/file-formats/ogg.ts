import { type FileFormat, RATES_TO_96K_HZ } from './file-format';

/** Vorbis's qualities by the rate in kbit/s that they come to in stereo (from memory of its documentation). */
const QUALITIES: Readonly<Record<number, number>> = {
  64: 0,
  80: 1,
  96: 2,
  112: 3,
  128: 4,
  160: 5,
  192: 6,
  224: 7,
  256: 8,
  320: 9,
  500: 10,
};

export const ogg: FileFormat = {
  name: 'Vorbis',
  extensions: ['ogg', 'oga'],
  mediaType: 'audio/ogg',
  matches: ({ container, codec }) => container === 'Ogg' && codec === 'Vorbis',
  depths: [],
  ratesHz: RATES_TO_96K_HZ,
  mostChannels: 8,
  layouts: ['lcr', 'quad', '5.0', '5.1', '6.1', '7.1'],
  modes: ['variable'],
  bitRatesKbps: { variable: [500, 320, 256, 224, 192, 160, 128, 112, 96, 80, 64] },
  defaultKbps: 192,
  tags: 'library',
  loudnessTags: 'replay-gain',
  chapters: 'comments',
  hasAdm: false,
  statesLength: true,
  headerBytes: 0,
  encoder: {
    arguments: ({ bitRateKbps }) => [
      ...['-c:a', 'libvorbis', '-q:a', `${QUALITIES[bitRateKbps ?? 192] ?? 6}`],
      ...['-f', 'ogg'],
    ],
  },
};
