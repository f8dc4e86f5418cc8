/** Texts of taking in, by file. */
export const uploadMessages = {
  namesNothing: 'the file or its job has no name',
  mostBytes: (bytes: number) => `${Math.round(bytes / 1e9)} GB`,
  diskIsFull: 'the disk is full',
  diskFails: 'the disk fails',
};

export const takeInRenderingsMessages = {
  whole: 'the whole definition',
  title: (title: string, programme: string | null, layout: string) =>
    programme === null ? `${title} in ${layout}` : `${title}, “${programme}” in ${layout}`,
  fileName: (stem: string, programme: string | null, layout: string) =>
    `${[stem, programme, layout].filter(Boolean).join('_')}.wav`,
};

export const takeInTracksMessages = {
  oneTrack: 'the file has one sound track',
  damaged: 'parts of its sound are damaged',
  title: (title: string, tracks: string) => `${title}, ${/[-+]/.test(tracks) ? 'tracks' : 'track'} ${tracks}`,
  fileName: (stem: string, tracks: string) => `${stem}_tracks-${tracks}.wav`,
};
