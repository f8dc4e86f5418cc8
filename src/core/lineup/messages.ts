/** Texts of records, by file. */
import { formatTime } from '../units/format';

export const lineUpSchemaMessages = {
  onceOnly: 'A programme is in it once',
  catalogLength: 'A catalogue number has 13 digits (EAN), or 12 (UPC)',
  catalogCheckDigit: (expected: number) => `The last digit should be ${expected}: one of the digits is wrong`,
};

export const balanceMessages = {
  loudnessOfTheWhole: 'integrated loudness',
  nothingToMeasure: 'none of its programmes has a loudness',
};

export const bookMessages = {
  openingCredits: 'Opening credits',
  closingCredits: 'Closing credits',
  numberMissing: 'The name of a chapter has {number} in it, so that no two are the same',
  unknownField: (field: string) => `{${field}} is not known: use {number}, {title}, {book} and {author}`,
};

export const cdMessages = {
  format: 'CD audio',
  formatRequired: '44.1 kHz, 16 bit, stereo',
  formatFound: (rate: string, depth: number | null, channels: number) =>
    `${rate}, ${depth === null ? 'lossy' : `${depth} bit`}, ${channels === 2 ? 'stereo' : channels === 1 ? 'mono' : `${channels} channels`}`,
  tracks: 'Tracks',
  tracksRequired: (most: number) => `${most} at most`,
  tracksFound: (count: number) => String(count),
  trackLength: 'Shortest track',
  trackLengthRequired: (seconds: number) => `${seconds} s or more`,
  trackLengthFound: (number: number, seconds: string) => `track ${number}: ${seconds} s`,
  length: 'Length',
  lengthRequired: (most: number, safe: number) => `${most}:00 or less (${safe}:00 fits on every disc)`,
  lengthFound: (seconds: number, isOnEvery: boolean, most: number) =>
    isOnEvery ? formatTime(seconds) : `${formatTime(seconds)}, for discs of ${most} minutes only`,
  starts: 'Track starts',
  startsRequired: 'whole frames of 1/75 s (588 samples)',
  startsFound: (off: number) => (off === 0 ? 'all on whole frames' : `${off} between frames`),
  pregap: 'Pause ahead of the first track',
  pregapRequired: (seconds: number) => `${seconds} s or more`,
  isrc: 'ISRCs',
  isrcRequired: 'a different one for each track, or none',
  isrcTwice: (isrc: string) => `${isrc} is there twice`,
  isrcMissing: (missing: number, tracks: number) => `${missing} of ${tracks} tracks have none`,
  isrcFound: (count: number) => (count === 0 ? 'none' : `${count}, each once`),
};

export const trackSheetMessages = {
  columns: [
    'track',
    'title',
    'artist',
    'ISRC',
    'pause (mm:ss:ff)',
    'start (mm:ss:ff)',
    'length (mm:ss:ff)',
    'start (frame)',
    'loudness (LUFS)',
    'from the whole (LU)',
    'true peak (dBTP)',
    'file',
    'SHA-256',
  ],
};
