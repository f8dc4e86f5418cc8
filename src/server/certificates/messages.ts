/** Texts of the PDF certificates, by file. */

export const pdfCurveMessages = {
  caption: 'Short-term loudness in LUFS along time',
};

export const pdfPartsMessages = {
  opsimeter: 'Opsimeter',
  inside: 'Inside: every requirement that can be assessed is met',
  accepted: (reason: string, by: string | null) => `Outside, and accepted${by ? ` by ${by}` : ''}: ${reason}`,
  outside: 'Outside: it misses its spec',
  atMost: 'at most',
  atLeast: 'at least',
};

export const pdfMessages = {
  certificates: 'Certificates',
  certificateOf: (programme: string) => `Certificate: ${programme}`,
  opsimeter: 'Opsimeter',
  nothingYet: 'Nothing has been handed over yet.',
  certificateForVersion: (job: string, name: string, version: number) =>
    `${job} · certificate for ${name}, version ${version}`,
  theFile: 'The file',
  name: 'Name',
  channel: (channel: string) => `Channel ${channel}`,
  format: 'Format',
  startsAt: 'Begins at',
  length: 'Length',
  samplesSha256: 'SHA-256 of its samples',
  madeFrom: 'Made from',
  partOf: 'Part of',
  place: (name: string, kind: string, place: number, of: number) => `${name} (${kind}), ${place} of ${of}`,
  sourceSha256: 'SHA-256 of the source',
  requirements: 'Requirements, and readings of the written file',
  source: 'Source',
  notAssessed: 'Not assessed',
  readings: 'Readings',
  rms: 'RMS, re full-scale peak',
  treatment: (version: number) => `The treatment, version ${version}`,
  unchanged: 'None: the audio is unchanged',
  noLimiter: 'No limiter.',
  limited: (greatestDb: string) => `The limiter reduced by up to ${greatestDb} dB.`,
  footer: (writtenAt: string, issuedAt: string, engineVersion: string) =>
    `Written ${writtenAt} · issued ${issuedAt} · engine ${engineVersion}`,
  summary: (count: number, misses: number) =>
    `${count === 1 ? '1 delivery' : `${count} deliveries`}, ${misses === 0 ? 'all inside' : `${misses} outside`}`,
  accepted: (reason: string, by: string | null) => `Accepted${by ? ` by ${by}` : ''}: ${reason}`,
  approvedBy: 'Approved by',
};

export const trackSheetPdfMessages = {
  title: (name: string) => `Track sheet: ${name}`,
  about: (tracks: number, length: string) => `Track sheet · ${tracks} tracks · ${length}`,
  format: 'Format',
  spec: 'Spec',
  catalogNumber: 'Catalogue number',
  tracks: 'Tracks (times in minutes, seconds and 1/75 s)',
  columns: {
    number: '#',
    title: 'Title',
    start: 'start',
    length: 'length',
    isrc: 'ISRC',
    loudness: 'LUFS',
    fromWhole: 'LU',
    peak: 'dBTP',
  },
  requirements: 'Requirements',
  found: (found: string, required: string) => `${found}, required ${required}`,
  whole: 'Readings of the whole',
  files: 'Files',
  footer: (writtenAt: string, engine: string) => `Written and measured ${writtenAt} · engine ${engine}`,
};

export const stemsPdfMessages = {
  title: (name: string) => `Stems: ${name}`,
  about: (stems: number) => `${stems === 1 ? '1 stem' : `${stems} stems`} and their master`,
  format: 'Format',
  spec: 'Spec',
  aligned: 'Aligned',
  byTime: 'by the time references of the files',
  byStart: 'at the first frames of the files',
  sum: 'Sum of the written stems, against the written master',
  addsUp: 'Adds up',
  does: 'yes',
  doesNot: 'no: what is left is more than the rounding of the files',
  left: 'What is left, RMS of the whole',
  most: 'Its loudest 100 ms',
  allowed: (most: string, allowed: string) => `${most}, allowed ${allowed}`,
  nothing: 'digital silence',
  master: 'The master, RMS',
  treatment: 'Treatment of the mix, and of every stem',
  steps: 'Steps',
  unchanged: 'None: the audio is unchanged',
  limiter: 'Limiter',
  limited: (greatestDb: string) => `The gain reduction of the mix, up to ${greatestDb} dB, was applied to every stem.`,
  requirements: 'Requirements, of the master',
  found: (found: string, required: string) => `${found}, required ${required}`,
  readings: 'Readings of the master',
  files: 'Files',
  footer: (writtenAt: string, engine: string) => `Written and measured ${writtenAt} · engine ${engine}`,
};
