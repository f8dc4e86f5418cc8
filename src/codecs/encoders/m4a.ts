import { bitRateArguments, type Encoder } from './encoder';

export const m4a: Encoder = {
  arguments: (settings) => [
    // Noise in place of what is left out, and one channel in place of two, move peaks by a decibel from one coding to the next.
    ...['-c:a', 'aac', ...bitRateArguments(settings), '-aac_pns', '0', '-aac_is', '0'],
    // Its edit list counts in the movie's own time, which is milliseconds unless it is told to be frames.
    ...['-movie_timescale', `${settings.sampleRateHz}`, '-movflags', '+faststart', '-f', 'ipod'],
  ],
};
