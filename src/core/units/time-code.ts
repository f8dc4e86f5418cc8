/**
 * SMPTE time code: a label, hours:minutes:seconds:frames, for each picture frame of a day (SMPTE ST 12-1; from memory). Where pictures
 * come 1000/1001 slower than they are counted, labels either fall behind the clock by 3.6 s an hour, or drop-frame counting leaves
 * labels out: the first two of each minute but every tenth (the first four at 59.94, which counts twice as fast).
 */

interface Rate {
  /** Labels of one second. */
  counted: number;
  /** Picture frames a second are `numerator / denominator`. */
  numerator: number;
  denominator: number;
  /** Labels left out of a minute; 0 without drop-frame counting. */
  dropped: number;
  words: string;
}

const RATES = {
  '23.976': rate(24, 1001, 0, '23.976 fps'),
  '24': rate(24, 1000, 0, '24 fps'),
  '25': rate(25, 1000, 0, '25 fps'),
  '29.97': rate(30, 1001, 0, '29.97 fps, non-drop frame'),
  '29.97-drop': rate(30, 1001, 2, '29.97 fps, drop frame'),
  '30': rate(30, 1000, 0, '30 fps'),
  '47.952': rate(48, 1001, 0, '47.952 fps'),
  '48': rate(48, 1000, 0, '48 fps'),
  '50': rate(50, 1000, 0, '50 fps'),
  '59.94': rate(60, 1001, 0, '59.94 fps, non-drop frame'),
  '59.94-drop': rate(60, 1001, 4, '59.94 fps, drop frame'),
  '60': rate(60, 1000, 0, '60 fps'),
} as const;

export type TimeCodeRate = keyof typeof RATES;
export const TIME_CODE_RATES = Object.keys(RATES) as TimeCodeRate[];

/** The time code of a sound. */
export interface StartTimeCode {
  rate: TimeCodeRate;
  /** Of a picture frame, counted from 00:00:00:00. */
  pictureFrame: number;
  /** Frames of sound from the start of that picture frame to the first frame of the sound; below 0 where the sound begins earlier. */
  offsetFrames: number;
}

const MINUTES_A_DAY = 24 * 60;

function rate(counted: number, denominator: 1000 | 1001, dropped: number, words: string): Rate {
  return { counted, numerator: counted * 1000, denominator, dropped, words };
}

/** "29.97 fps, drop frame". */
export function describeTimeCodeRate(rate: TimeCodeRate): string {
  return RATES[rate].words;
}

/** Labels a second, as a fraction, and whether some are left out: as files state a rate. */
export function countingOf(rate: TimeCodeRate): { numerator: number; denominator: number; isDropFrame: boolean } {
  const { counted, denominator, dropped } = RATES[rate];
  const isSlow = denominator === 1001;
  return { numerator: isSlow ? 1000 * counted : counted, denominator: isSlow ? 1001 : 1, isDropFrame: dropped > 0 };
}

/** Picture frames a second. */
export function pictureFrameRate(rate: TimeCodeRate): number {
  const { numerator, denominator } = RATES[rate];
  return numerator / denominator;
}

/**
 * The rate that pictures have which come so many a second, as files state it: exactly, or rounded to two or three places.
 *
 * @returns undefined where nothing counts so
 */
export function timeCodeRateOf(framesPerSecond: number, isDropFrame: boolean): TimeCodeRate | undefined {
  const near = TIME_CODE_RATES.filter((name) => Math.abs(pictureFrameRate(name) - framesPerSecond) < 0.005);
  return near.find((name) => RATES[name].dropped > 0 === isDropFrame);
}

/** How many picture frames are counted until labels begin anew. */
export function labelsOfADay(rate: TimeCodeRate): number {
  const { counted, dropped } = RATES[rate];
  return (MINUTES_A_DAY / 10) * (counted * 600 - 9 * dropped);
}

/** The label of a picture frame, counted from 00:00:00:00; after a day it begins anew. Drop-frame labels have a semicolon. */
export function formatTimeCode(pictureFrame: number, rate: TimeCodeRate): string {
  const { counted, dropped } = RATES[rate];
  const perMinute = counted * 60 - dropped;
  const perTenMinutes = counted * 600 - 9 * dropped;
  const perDay = labelsOfADay(rate);
  const frame = ((pictureFrame % perDay) + perDay) % perDay;
  const tens = Math.floor(frame / perTenMinutes);
  const within = frame % perTenMinutes;
  // The first of ten minutes has all its labels.
  const minute = within < counted * 60 ? 0 : 1 + Math.floor((within - counted * 60) / perMinute);
  const label = frame + dropped * (9 * tens + minute);
  const two = (value: number) => String(value).padStart(2, '0');
  const seconds = Math.floor(label / counted);
  const clock = [Math.floor(seconds / 3600), Math.floor(seconds / 60) % 60, seconds % 60].map(two).join(':');
  return `${clock}${dropped > 0 ? ';' : ':'}${two(label % counted)}`;
}

/**
 * The picture frame that has a label, counted from 00:00:00:00. Colons, semicolons and points are read alike: the rate says what is
 * counted.
 *
 * @returns undefined for what is no label at this rate, one that drop-frame counting leaves out included
 */
export function parseTimeCode(text: string, rate: TimeCodeRate): number | undefined {
  const parts = /^(\d{2})[:;.](\d{2})[:;.](\d{2})[:;.](\d{2})$/.exec(text.trim());
  if (!parts) return undefined;
  const [hours = 0, minutes = 0, seconds = 0, frames = 0] = parts.slice(1).map(Number);
  const { counted, dropped } = RATES[rate];
  if (hours > 23 || minutes > 59 || seconds > 59 || frames >= counted) return undefined;
  if (seconds === 0 && frames < dropped && minutes % 10 !== 0) return undefined;
  const wholeMinutes = hours * 60 + minutes;
  const label = (wholeMinutes * 60 + seconds) * counted + frames;
  return label - dropped * (wholeMinutes - Math.floor(wholeMinutes / 10));
}

/** The time code at a frame of a sound: the label of the picture frame that is shown then. */
export function timeCodeAt(
  { rate, pictureFrame, offsetFrames }: StartTimeCode,
  frame: number,
  sampleRateHz: number,
): string {
  const { numerator, denominator } = RATES[rate];
  // Whole numbers up to the division, far below 2^53 for days of sound: no label is late by a rounding.
  const shown = Math.floor(((frame + offsetFrames) * numerator) / (sampleRateHz * denominator));
  return formatTimeCode(pictureFrame + shown, rate);
}

/**
 * The first frame of a sound that has a time code, as it is typed: labels run on from the one that the sound begins with, for a day.
 *
 * @returns undefined for what is no label at the rate of the sound's time code
 */
export function frameAtTimeCode(
  { rate, pictureFrame, offsetFrames }: StartTimeCode,
  text: string,
  sampleRateHz: number,
): number | undefined {
  const label = parseTimeCode(text, rate);
  if (label === undefined) return undefined;
  const { numerator, denominator } = RATES[rate];
  const shownFirst = Math.floor((offsetFrames * numerator) / (sampleRateHz * denominator));
  const perDay = labelsOfADay(rate);
  const later = (((label - pictureFrame - shownFirst) % perDay) + perDay) % perDay;
  const frame = Math.ceil(((shownFirst + later) * sampleRateHz * denominator) / numerator) - offsetFrames;
  // The picture frame that the sound begins in may have begun before it.
  return Math.max(0, frame);
}

/** The time code of a sound that begins so many of its frames after midnight, as WAV files of location recorders state it. */
export function timeCodeAfterMidnight(timeReferenceFrames: number, rate: TimeCodeRate): StartTimeCode {
  return { rate, pictureFrame: 0, offsetFrames: timeReferenceFrames };
}

/** The other way: when a sound begins, in its frames after midnight, as editing programs place a WAV by. Not below 0. */
export function framesAfterMidnight({ rate, pictureFrame, offsetFrames }: StartTimeCode, sampleRateHz: number): number {
  const { numerator, denominator } = RATES[rate];
  // The first frame in the picture, not the last before it: read back, the label is the same.
  return Math.max(0, Math.ceil((pictureFrame * sampleRateHz * denominator) / numerator) + offsetFrames);
}
