/** The picture of a film is made in segments of this length, each by itself: whoever jumps somewhere waits for one of them. */
export const PICTURE_SEGMENT_SECONDS = 10;

/** When the picture of a film is shown, by the sound that is heard. */
export interface PictureTimes {
  /** How long after the first picture the first frame of sound is; negative where sound begins first. */
  offsetSeconds: number;
  /** Of the picture. */
  durationSeconds: number;
}

/** The last picture is still shown where a programme ends with it, or a moment later. */
const HELD_SECONDS = 0.1;
/** Less than the shortest picture. */
const WITHIN_LAST_SECONDS = 0.01;

/** What is shown while a second of the sound is heard: seconds after the first picture; null before the first and after the last. */
export function pictureSecondsAt(
  soundSeconds: number,
  { offsetSeconds, durationSeconds }: PictureTimes,
): number | null {
  const seconds = soundSeconds + offsetSeconds;
  if (seconds < 0 || seconds > durationSeconds + HELD_SECONDS) return null;
  return Math.max(0, Math.min(seconds, durationSeconds - WITHIN_LAST_SECONDS));
}

/** The segment that a second of the picture is in, counted from 0. */
export function segmentAt(pictureSeconds: number): number {
  return Math.floor(pictureSeconds / PICTURE_SEGMENT_SECONDS);
}
