/** Cue sheets as text: the command language of CD writers that players read too (common practice, no source but its users). */
import { type Assembly, cueTime } from '@/core/lineup/assembly';
import type { TrackText } from '@/core/lineup/track-sheet';

/** A record as a cue sheet says it. */
export interface CueRecord {
  title: string;
  artist: string;
  /** 13 digits; empty where it has none. */
  catalogNumber: string;
  /** Silence ahead of the first track that is in no file. */
  pregapSeconds: number;
  tracks: readonly TrackText[];
}

/** How sheets name a kind of file; the others go by the name of plain samples, whatever they hold. */
const FILE_TYPES: Readonly<Record<string, string>> = { mp3: 'MP3', aiff: 'AIFF', aif: 'AIFF' };

/**
 * The sheet of one continuous file. Times are in 1/75 s; starts that lie between are rounded down.
 *
 * @param fileName of the file, which lies beside the sheet
 */
export function cueSheetText(record: CueRecord, { tracks, sampleRateHz }: Assembly, fileName: string): string {
  const extension = /\.([^.]+)$/.exec(fileName)?.[1]?.toLowerCase() ?? '';
  const lines = [
    ...(record.catalogNumber ? [`CATALOG ${record.catalogNumber}`] : []),
    ...(record.artist ? [`PERFORMER ${quoted(record.artist)}`] : []),
    `TITLE ${quoted(record.title)}`,
    `FILE ${quoted(fileName)} ${FILE_TYPES[extension] ?? 'WAVE'}`,
  ];
  tracks.forEach(({ markFrame, pauseFrame }, i) => {
    const { title, artist, isrc } = record.tracks[i] as TrackText;
    const performer = artist || record.artist;
    lines.push(
      `  TRACK ${two(i + 1)} AUDIO`,
      `    TITLE ${quoted(title)}`,
      ...(performer ? [`    PERFORMER ${quoted(performer)}`] : []),
      ...(isrc ? [`    ISRC ${isrc}`] : []),
      ...(i === 0 && record.pregapSeconds > 0 ? [`    PREGAP ${cueTime(record.pregapSeconds, 1)}`] : []),
      ...(pauseFrame === null ? [] : [`    INDEX 00 ${cueTime(pauseFrame, sampleRateHz)}`]),
      `    INDEX 01 ${cueTime(markFrame, sampleRateHz)}`,
    );
  });
  return `${lines.join('\r\n')}\r\n`;
}

/** Nothing in the language stands for a quote within quotes. */
function quoted(text: string): string {
  return `"${text.replaceAll('"', "'").replaceAll(/[\r\n]+/g, ' ')}"`;
}

function two(number: number): string {
  return String(number).padStart(2, '0');
}
