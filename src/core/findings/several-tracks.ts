import { advice, defineFinding } from './finding';

export const severalTracks = defineFinding({
  code: 'several-tracks',
  criterion: 'the file has other sound tracks',
  look({ facts: { track } }) {
    return track && advice(`The file holds ${track.of} sound tracks; this is track ${track.number}.`);
  },
});
