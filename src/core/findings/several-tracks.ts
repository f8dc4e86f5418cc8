import { advice, defineFinding } from './finding';

export const severalTracks = defineFinding({
  code: 'several-tracks',
  criterion: 'the file has other sound tracks',
  look({ facts: { track } }) {
    if (!track) return null;
    const which = track.joined ? `these are tracks ${track.joined.join(' + ')}` : `this is track ${track.number}`;
    return advice(`The file holds ${track.of} sound tracks; ${which}.`);
  },
});
