import { deliveredTreatment, treatedProgramme } from '../delivery/compose';
import { type DeliveryFormat, formatProblems, type ResolvedFormat, resolveFormat } from '../delivery/format';
import { AppError } from '../errors/app-error';
import { NO_TAGS, type Tags } from '../file-formats/tags';
import type { Limit } from '../treatment/steps/limit';
import { treatedFrames } from '../treatment/treated-frames';
import type { Treatment } from '../treatment/treatment';
import { type Assembly, planAssembly } from './assembly';
import type { TrackText } from './track-sheet';

/** A programme that is to be written as a part of a record. */
export interface RecordMember {
  title: string;
  gapSeconds: number;
  treatment: Treatment;
  source: { channels: number; sampleRateHz: number; frames: number; layout?: string | undefined };
}

/** What is to be written, before a byte is. */
export interface RecordPlan {
  format: ResolvedFormat;
  /** Of each programme, at the rate of the record; without a limiter where one is over the whole. */
  treatments: Treatment[];
  assembly: Assembly;
}

/**
 * Brings programmes to one format, and lays them out. Where the format states no rate, it is the highest that any of them has; in mono,
 * each is mixed down by itself.
 *
 * @throws AppError `format-impossible`, `not-alike` where they differ in their channels, or `overlap-too-long`
 */
export function planRecord(members: readonly RecordMember[], asked: DeliveryFormat, limit: Limit | null): RecordPlan {
  const own = members.map(({ treatment, source }) => treatedProgramme(treatment, source, { isPassthrough: false }));
  const [first] = own;
  if (!first) throw new RangeError('a record has no programme');
  const isMono = asked.arrangement === 'mono' && own.every(({ channels }) => channels <= 2);
  const odd = isMono
    ? -1
    : own.findIndex(
        // One and two channels have but one layout each, stated or not.
        ({ channels, layout }) => channels !== first.channels || (channels > 2 && layout !== first.layout),
      );
  if (odd >= 0) {
    const [one, other] = [members[0], members[odd]] as [RecordMember, RecordMember];
    const channels = own[odd]?.channels ?? 0;
    throw new AppError('not-alike', {
      title: one.title,
      channels: first.channels,
      other: other.title,
      otherChannels: channels,
    });
  }
  const programme = { ...first, sampleRateHz: Math.max(...own.map(({ sampleRateHz }) => sampleRateHz)) };
  // What a file is for each channel, or as it came, is no record.
  const wanted: DeliveryFormat = {
    ...asked,
    arrangement: isMono ? 'mono' : 'interleaved',
    isPassthrough: false,
    withoutAdm: false,
  };
  const [problem] = formatProblems(wanted, programme);
  if (problem) throw new AppError('format-impossible', { problem: problem.text, nearest: problem.nearestText });
  const format = resolveFormat(wanted, programme);
  const treatments = members.map(({ treatment, source }) => {
    const delivered = deliveredTreatment(treatment, format, source.sampleRateHz);
    return { ...delivered, dither: 'none' as const, limit: limit ? null : delivered.limit };
  });
  const lengths = members.map(({ source, gapSeconds }, i) => ({
    frames: treatedFrames(treatments[i] as Treatment, source),
    gapSeconds,
  }));
  try {
    return { format, treatments, assembly: planAssembly(lengths, format.sampleRateHz) };
  } catch (error) {
    if (!(error instanceof RangeError)) throw error;
    throw new AppError('overlap-too-long', { reason: error.message }, { cause: error });
  }
}

/** What the file of one track says of itself: its own tags, and those of the record where it has none. */
export function trackTags(
  record: { title: string; artist: string; tracks: readonly TrackText[] },
  index: number,
  own: Tags = NO_TAGS,
): Tags {
  const { title, artist, isrc } = record.tracks[index] as TrackText;
  return {
    ...own,
    title,
    artist: artist || record.artist,
    album: record.title,
    track: `${index + 1}/${record.tracks.length}`,
    isrc,
  };
}
