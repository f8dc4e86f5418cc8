/** Texts of measuring, by file. */

export const measureSourceMessages = {
  otherChannelCount: (channels: number) => `that layout does not have ${channels} channels`,
  noSuchTrack: 'the file has no such sound track',
};
