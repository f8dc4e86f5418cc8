import { FILE_FORMATS, type FileKind } from '@/core/file-formats/file-formats';

/** A place in a file that players let people jump to, in seconds. */
export interface Chapter {
  startSeconds: number;
  endSeconds: number;
  title: string;
}

/** Chapters of marked places: each lasts until the next one begins, or the sound ends. */
export function chaptersOf(
  markers: readonly { frame: number; label: string }[],
  { frames, sampleRateHz }: { frames: number; sampleRateHz: number },
): Chapter[] {
  const sorted = [...markers].sort((a, b) => a.frame - b.frame);
  return sorted.map(({ frame, label }, i) => ({
    startSeconds: frame / sampleRateHz,
    endSeconds: (sorted[i + 1]?.frame ?? frames) / sampleRateHz,
    title: label,
  }));
}

/** Kinds whose chapters the coder's container carries; the others have them among their tags. */
export function hasOwnChapters(kind: FileKind): boolean {
  return FILE_FORMATS[kind].chapters === 'container';
}

/**
 * Chapters as FFmpeg reads them from a file of metadata. A track of chapters in MPEG-4 has no hole ahead of the first, which would
 * be drawn to the beginning: there one is put ahead of it.
 *
 * @param kind null of a film
 */
export function ffmetadata(marked: readonly Chapter[], kind: FileKind | null): string {
  const [first] = marked;
  const isHoleAhead = kind === 'm4a' && first !== undefined && first.startSeconds > 0;
  const opening = isHoleAhead ? [{ startSeconds: 0, endSeconds: first.startSeconds, title: '·' }] : [];
  const chapters = [...opening, ...marked];
  const escaped = (text: string) => text.replace(/[=;#\\\n]/g, (sign) => `\\${sign}`);
  const entries = chapters.map(({ startSeconds, endSeconds, title }) =>
    [
      '[CHAPTER]',
      'TIMEBASE=1/1000000',
      `START=${Math.round(1e6 * startSeconds)}`,
      `END=${Math.round(1e6 * endSeconds)}`,
      `title=${escaped(title)}`,
    ].join('\n'),
  );
  return [';FFMETADATA1', ...entries, ''].join('\n');
}

/**
 * Chapters as comments of Xiph's: `CHAPTER001=00:00:01.000` and `CHAPTER001NAME` (common practice, no source).
 */
export function chapterFields(chapters: readonly Chapter[]): [string, string][] {
  return chapters.flatMap(({ startSeconds, title }, i): [string, string][] => {
    const name = `CHAPTER${String(i + 1).padStart(3, '0')}`;
    const millis = Math.round(1000 * startSeconds);
    const two = (value: number) => String(value).padStart(2, '0');
    const clock = [Math.floor(millis / 3_600_000), Math.floor(millis / 60_000) % 60, Math.floor(millis / 1000) % 60];
    return [
      [name, `${clock.map(two).join(':')}.${String(millis % 1000).padStart(3, '0')}`],
      [`${name}NAME`, title],
    ];
  });
}
