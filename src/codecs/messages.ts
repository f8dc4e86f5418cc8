/** Texts of codecs, by file. */
export const pictureMessages = {
  tooLarge: (megabytes: number) => `it is larger than ${megabytes} MB`,
  notAPicture: 'it is neither PNG nor JPEG',
  tooWide: (width: number, height: number, most: number) =>
    `it has ${width} × ${height} pixels, and ${most} × ${most} are the most that players take`,
  damaged: 'it is damaged, or has more pixels than players take',
};

export const putBackMessages = {
  /** @param kind FFmpeg's: video, audio, subtitle, data */
  otherPackets: (kind: string) => `a stream of ${kind || 'the source'} does not come back as it was`,
  otherTimeCode: 'its time code does not come back as it was',
};
