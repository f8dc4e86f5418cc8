/** Texts of codecs, by file. */
export const pictureMessages = {
  tooLarge: (megabytes: number) => `it is larger than ${megabytes} MB`,
  notAPicture: 'it is neither PNG nor JPEG',
  tooWide: (width: number, height: number, most: number) =>
    `it has ${width} × ${height} pixels, and ${most} × ${most} are the most that players take`,
  damaged: 'it is damaged, or has more pixels than players take',
};

export const filmCutMessages = {
  noPicture: 'it has no picture',
  noPictureThere: 'it has no picture there',
  openGroups: 'pictures after its key frame need some of those before it (open GOP)',
  noKeyFrame: 'no key frame was found',
};

export const putBackMessages = {
  /** @param kind FFmpeg's: video, audio, subtitle, data */
  otherPackets: (kind: string) => `a stream of ${kind || 'the source'} does not come back as it was`,
  otherPictures: (found: number, wanted: number) => `its picture was re-encoded as ${found} pictures, not ${wanted}`,
  otherTimeCode: 'its time code does not come back as it was',
};
