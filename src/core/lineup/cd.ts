import type { Assessment } from '../spec/assessment';
import { assessCheck, assessNumber } from '../spec/requirements/requirement';
import { formatNumber, formatSampleRate } from '../units/format';
import { type Assembly, CUE_FRAMES_PER_SECOND } from './assembly';
import { cdMessages as messages } from './messages';

/** What a CD holds (IEC 60908 and the discs that are sold; from memory). */
const CD = {
  sampleRateHz: 44_100,
  bitDepth: 16,
  channels: 2,
  mostTracks: 99,
  leastTrackSeconds: 4,
  leastPregapSeconds: 2,
  /** What every disc holds, and what a longer one does. */
  safeMinutes: 74,
  mostMinutes: 80,
} as const;

/** A record as it would be on a CD. */
export interface CdRecord {
  assembly: Assembly;
  bitDepth: number | null;
  channels: number;
  pregapSeconds: number;
  /** Of each track; empty where it has none. */
  isrcs: readonly string[];
}

export function isCdAudio({
  sampleRateHz,
  bitDepth,
  channels,
}: {
  sampleRateHz: number;
  bitDepth: number | null;
  channels: number;
}): boolean {
  return sampleRateHz === CD.sampleRateHz && bitDepth === CD.bitDepth && channels === CD.channels;
}

/** Everything that a CD asks of a record, held against one. */
export function assessCd({ assembly, bitDepth, channels, pregapSeconds, isrcs }: CdRecord): Assessment[] {
  const { sampleRateHz, tracks, frames } = assembly;
  const inSeconds = (count: number) => count / sampleRateHz;
  const lengths = tracks.map(({ markFrame }, i) => {
    const next = tracks[i + 1];
    return inSeconds((next ? (next.pauseFrame ?? next.markFrame) : frames) - markFrame);
  });
  const shortest = lengths.indexOf(Math.min(...lengths));
  const shortestSeconds = lengths[shortest] ?? 0;
  const totalSeconds = inSeconds(frames) + pregapSeconds;
  const off = tracks.filter(({ markFrame }) => (markFrame * CUE_FRAMES_PER_SECOND) % sampleRateHz !== 0).length;
  return [
    assessCheck(
      { key: 'cd-format', name: messages.format, required: messages.formatRequired },
      messages.formatFound(formatSampleRate(sampleRateHz), bitDepth, channels),
      isCdAudio({ sampleRateHz, bitDepth, channels }),
    ),
    assessCheck(
      { key: 'cd-tracks', name: messages.tracks, required: messages.tracksRequired(CD.mostTracks) },
      messages.tracksFound(tracks.length),
      tracks.length <= CD.mostTracks,
    ),
    {
      ...assessNumber(
        {
          key: 'cd-track-length',
          name: messages.trackLength,
          required: messages.trackLengthRequired(CD.leastTrackSeconds),
        },
        shortestSeconds,
        's',
        { least: CD.leastTrackSeconds },
      ),
      found: messages.trackLengthFound(shortest + 1, formatNumber(shortestSeconds)),
    },
    {
      ...assessNumber(
        { key: 'cd-length', name: messages.length, required: messages.lengthRequired(CD.mostMinutes, CD.safeMinutes) },
        totalSeconds,
        's',
        { most: 60 * CD.mostMinutes },
      ),
      found: messages.lengthFound(totalSeconds, totalSeconds <= 60 * CD.safeMinutes, CD.mostMinutes),
    },
    assessCheck(
      { key: 'cd-starts', name: messages.starts, required: messages.startsRequired },
      messages.startsFound(off),
      off === 0,
    ),
    assessNumber(
      { key: 'cd-pregap', name: messages.pregap, required: messages.pregapRequired(CD.leastPregapSeconds) },
      pregapSeconds,
      's',
      { least: CD.leastPregapSeconds },
    ),
    isrcAssessment(isrcs),
  ];
}

/** A code that two tracks have speaks of neither; where some have one, the others were probably forgotten. */
function isrcAssessment(isrcs: readonly string[]): Assessment {
  const named = { key: 'cd-isrc', name: messages.isrc, required: messages.isrcRequired };
  const given = isrcs.filter((isrc) => isrc !== '');
  const twice = given.find((isrc, i) => given.indexOf(isrc) !== i);
  if (twice !== undefined) return assessCheck(named, messages.isrcTwice(twice), false);
  const missing = isrcs.length - given.length;
  if (given.length > 0 && missing > 0) return assessCheck(named, messages.isrcMissing(missing, isrcs.length), false);
  return assessCheck(named, messages.isrcFound(given.length), true);
}
