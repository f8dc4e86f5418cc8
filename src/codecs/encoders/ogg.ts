import type { Encoder } from './encoder';

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

export const ogg: Encoder = {
  arguments: ({ bitRateKbps }) => [
    ...['-c:a', 'libvorbis', '-q:a', `${QUALITIES[bitRateKbps ?? 192] ?? 6}`],
    ...['-f', 'ogg'],
  ],
};
