import { bitRateArguments, type EncoderSettings, type FileFormat } from './file-format';

/** The levels that its frames can state, and the one that has a decoder leave the sound as it is. */
const DIALNORM_DB = { least: -31, most: -1, untouched: -31 } as const;
/** ITU-R BS.775: centre and surrounds at -3 dB in what a decoder folds down to stereo. */
const FOLD_DOWN = ['-center_mixlev', '0.707', '-surround_mixlev', '0.707'];

/** The dialogue level (dialnorm) that a programme of a loudness has: a decoder turns it down to -31 from there. */
function dialnormDb({ integratedLufs }: EncoderSettings): number {
  const { least, most, untouched } = DIALNORM_DB;
  return integratedLufs === null ? untouched : Math.min(most, Math.max(least, Math.round(integratedLufs)));
}

/** AC-3, by ATSC A/52; from memory. */
export const ac3: FileFormat = {
  name: 'AC-3',
  extensions: ['ac3'],
  mediaType: 'audio/ac3',
  matches: ({ container, codec }) => container === 'AC-3' && codec === 'AC-3',
  depths: [],
  ratesHz: [48_000, 44_100, 32_000],
  mostChannels: 6,
  layouts: ['lcr', 'quad', '5.0', '5.1'],
  modes: ['constant'],
  bitRatesKbps: { constant: [640, 576, 512, 448, 384, 320, 256, 224, 192, 160, 128, 112, 96, 80, 64, 56, 48, 40, 32] },
  defaultKbps: 448,
  bitRateLimits: (channels) => ({ least: 32 * channels, most: 640 }),
  tags: null,
  loudnessTags: null,
  chapters: null,
  hasAdm: false,
  // A bare stream has no place to say what its encoder put at its start and end.
  statesLength: false,
  // The first transform has half of it before the sound.
  encoderDelayFrames: 256,
  statesDialogueLevel: true,
  headerBytes: 0,
  encoder: {
    arguments: (settings) => [
      ...['-c:a', 'ac3', ...bitRateArguments(settings)],
      ...['-dialnorm', `${dialnormDb(settings)}`, ...FOLD_DOWN, '-f', 'ac3'],
    ],
  },
};
