/** Texts of what could not be found out about a file, by file. */

export const factsMessages = {
  framesMissing: (missingFrames: number) => `${missingFrames} frames missing at the end`,
  bitRateNotStated: 'the file does not state its bit rate',
  measuredBefore: 'measured before this was read; measure it again',
  tagsNotRead: 'its tags were not read',
  onlyOfWrittenFiles: 'only known of files that were written here',
};
