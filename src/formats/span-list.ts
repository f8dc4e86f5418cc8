/** Spans of a programme as others list them: an edit list (CMX 3600) or a table (CSV). */
import { parse } from 'csv-parse/sync';
import { frameAtTimeCode, type StartTimeCode } from '@/core/units/time-code';

export interface NamedSpan {
  name: string;
  startFrame: number;
  /** The one behind the last. */
  endFrame: number;
}

/** A line that is no span of the programme: its times are none, its end is not behind its start, it lies outside, or there is no time code to place it by. */
export interface UnreadLine {
  /** Counted from 1. */
  line: number;
  text: string;
  why: 'no-times' | 'empty' | 'outside' | 'no-time-code';
}

/** What spans are placed in. */
interface SpannedSource {
  sampleRateHz: number;
  frames: number;
  /** Null where the file states none. */
  timeCode: StartTimeCode | null;
}

/** More than any programme is cut into. */
const MOST_SPANS = 5000;

/**
 * An event of a CMX 3600 edit list (from memory): number, reel, tracks, transition with its length, source in and out, record in and out.
 */
const EVENT =
  /^\s*(\d{1,6})\s+(\S+)\s+(\S+)\s+([A-Z]\S*)\s+(?:(\d{1,4})\s+)?(\S{11})\s+(\S{11})\s+(\d\d[:;.]\d\d[:;.]\d\d[:;.]\d\d)\s+(\d\d[:;.]\d\d[:;.]\d\d[:;.]\d\d)\s*$/;
const CLIP_NAME = /^\*?\s*FROM CLIP NAME:\s*(.+?)\s*$/i;
const LABEL = /^\d{1,2}[:;.]\d\d[:;.]\d\d[:;.]\d\d$/;

/**
 * Reads spans, in the order in which they stand. Of an edit list the record times count, each pair of them once. A table has a start, an end
 * and a name, by its headings or in whichever order its columns stand; times are time code, or hours, minutes and seconds from the start.
 */
export function readSpanList(text: string, source: SpannedSource): { spans: NamedSpan[]; unread: UnreadLine[] } {
  const lines = text.replace(/^\uFEFF/, '').split(/\r\n?|\n/);
  const listed = lines.some((line) => EVENT.test(line)) ? editsIn(lines) : rowsIn(text);
  const spans: NamedSpan[] = [];
  const unread: UnreadLine[] = [];
  for (const { line, text: own, name, start, end } of listed) {
    const span = placed(start, end, source);
    if (typeof span === 'string') unread.push({ line, text: own, why: span });
    else if (spans.length < MOST_SPANS) spans.push({ ...span, name: name.slice(0, 120) });
  }
  return { spans, unread };
}

interface Listed {
  line: number;
  text: string;
  name: string;
  start: string;
  end: string;
}

function editsIn(lines: readonly string[]): Listed[] {
  const edits = new Map<string, Listed>();
  let last: Listed | undefined;
  for (const [i, text] of lines.entries()) {
    const [, number = '', reel = '', , , , , , start = '', end = ''] = EVENT.exec(text) ?? [];
    if (start !== '') {
      last = { line: i + 1, text: text.trim(), name: `${number} ${reel}`, start, end };
      const known = edits.get(`${start} ${end}`);
      // Picture and sound of one edit are events of their own.
      if (!known) edits.set(`${start} ${end}`, last);
      else last = known;
    } else if (last) {
      const [, name] = CLIP_NAME.exec(text) ?? [];
      if (name) last.name = name;
    }
  }
  return [...edits.values()];
}

const HEADINGS = { start: /^(start|in|from|begin)/i, end: /^(end|out|to)\b/i, name: /^(name|title|label|marker)/i };

function rowsIn(text: string): Listed[] {
  const rows = parse(text, {
    bom: true,
    // A comma may stand in a name where another mark parts the columns.
    delimiter: ['\t', ';'].find((mark) => text.includes(mark)) ?? ',',
    relax_column_count: true,
    relax_quotes: true,
    skip_empty_lines: true,
    trim: true,
    info: true,
  }) as unknown as { record: string[]; info: { lines: number } }[];
  const headings = rows[0]?.record ?? [];
  const place = (of: RegExp) => headings.findIndex((heading) => of.test(heading));
  const [start, end, name] = [place(HEADINGS.start), place(HEADINGS.end), place(HEADINGS.name)];
  const isHeaded = start >= 0 && end >= 0;
  return rows.slice(isHeaded ? 1 : 0).map(({ record, info }, i) => {
    const times = record.filter((cell) => isTime(cell));
    const words = record.filter((cell) => cell !== '' && !isTime(cell));
    return {
      line: info.lines,
      text: record.join(', '),
      name: (isHeaded ? record[name] : words[0]) || `${i + 1}`,
      start: (isHeaded ? record[start] : times[0]) ?? '',
      end: (isHeaded ? record[end] : times[1]) ?? '',
    };
  });
}

function isTime(cell: string): boolean {
  return LABEL.test(cell) || secondsOf(cell) !== undefined;
}

/** Of `12.5`, `1:02.5` or `1:00:02`. */
function secondsOf(text: string): number | undefined {
  if (!/^(\d+:)?(\d+:)?\d+(\.\d+)?$/.test(text)) return undefined;
  return text.split(':').reduce((total, part) => 60 * total + Number(part), 0);
}

function placed(
  start: string,
  end: string,
  source: SpannedSource,
): Pick<NamedSpan, 'startFrame' | 'endFrame'> | UnreadLine['why'] {
  const { sampleRateHz, frames, timeCode } = source;
  const frameOf = (text: string) => {
    if (LABEL.test(text)) return timeCode ? frameAtTimeCode(timeCode, text.padStart(11, '0'), sampleRateHz) : null;
    const seconds = secondsOf(text);
    return seconds === undefined ? undefined : Math.round(seconds * sampleRateHz);
  };
  const [startFrame, endFrame] = [frameOf(start), frameOf(end)];
  if (startFrame === null || endFrame === null) return 'no-time-code';
  if (startFrame === undefined || endFrame === undefined) return 'no-times';
  if (startFrame >= frames) return 'outside';
  if (endFrame <= startFrame) return 'empty';
  return { startFrame, endFrame: Math.min(endFrame, frames) };
}
