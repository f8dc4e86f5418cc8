/** Texts of taking in, by file. */
export const uploadMessages = {
  namesNothing: 'the file or its job has no name',
  mostBytes: (bytes: number) => `${Math.round(bytes / 1e9)} GB`,
  diskIsFull: 'the disk is full',
  diskFails: 'the disk fails',
};

export const takeInTracksMessages = {
  oneTrack: 'the file has one sound track',
  damaged: 'parts of its sound are damaged',
  title: (title: string, tracks: string) => `${title}, ${/[-+]/.test(tracks) ? 'tracks' : 'track'} ${tracks}`,
  fileName: (stem: string, tracks: string) => `${stem}_tracks-${tracks}.wav`,
};
