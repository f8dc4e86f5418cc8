/** Texts of jobs and their ZIP files, by file. */

export const importJobMessages = {
  noTreatment: 'a delivery has no treatment',
};

export const jobZipMessages = {
  noManifest: 'it has no job manifest',
  unreadableManifest: 'its manifest cannot be read',
  namedTwice: 'its manifest names a file twice',
  missing: (name: string) => `${name} is missing, or has another size`,
  unexpected: (name: string) => `it holds ${name}, which belongs to no job`,
  noMatch: 'its programmes and its sources do not match',
  diskFull: 'there is not enough disk space for it',
  changed: (name: string) => `${name} has changed`,
};

export const programmeListMessages = {
  notForecastYet: 'forecast once it is opened',
};

export const recordJobMessages = {
  notImported: (fileName: string) => `${fileName} was not imported`,
};

export const replaceMessages = {
  notTwoOfOneJob: 'a new version is another programme of the same job',
  step: {
    trim: 'Trim',
    downmix: 'Downmix: nobody knows what the channels of the new version are for',
    channels: 'Channels: the new version is not stereo',
    'room-tone': 'The place that room tone is taken from',
  },
  marker: (name: string) => (name === '' ? 'A marker' : `Marker “${name}”`),
  rowSpan: 'The span of a row on the sheet',
};

export const readingsCsvMessages = {
  columns: ['title', 'file', 'duration (s)', 'sample rate (Hz)', 'bit depth', 'channels', 'layout'],
  hash: 'SHA-256',
};
