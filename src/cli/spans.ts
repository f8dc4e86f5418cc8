/** Spans of a file, each measured as a programme of its own. */
import { readFileSync } from 'node:fs';
import { type LabelledStart, startAtLabel } from '@/core/delivery/start-time-code';
import { AppError } from '@/core/errors/app-error';
import { gainOnly } from '@/core/treatment/treatment';
import { type NamedSpan, readSpanList, type UnreadLine } from '@/formats/span-list';
import { readFileMetadata } from '@/workers/node/file-metadata';
import type { FileReport } from '@/workers/protocol';
import type { Audio } from './audio';
import { type MeasuringOptions, measureAudio, withAudio } from './measuring';
import { spansMessages as messages } from './messages';
import { withPrepared } from './preparing';

/** A span as it was measured. */
export interface MeasuredSpan {
  span: NamedSpan;
  report: FileReport;
}

/**
 * Measures every span of a file that a list names.
 *
 * @param listPath an edit list (CMX 3600) or a table (CSV)
 * @param onUnread called with lines of the list that are no span of the file
 * @param set a time code in place of the file's own
 * @throws AppError `usage` where the list cannot be read, or names none
 */
export function measureSpans(
  file: string,
  listPath: string,
  options: MeasuringOptions,
  onUnread: (line: UnreadLine) => void,
): Promise<MeasuredSpan[]> {
  return withAudio(
    file,
    async (audio) => {
      const spans = await spansOf(audio, listPath, onUnread, options.timeCode);
      const measured: MeasuredSpan[] = [];
      for (const span of spans) {
        const { startFrame, endFrame } = span;
        const treatment = { ...gainOnly(0), trim: { startFrame, endFrame } };
        const origin = audio.origin ?? audio.header.format;
        const { report } = await withPrepared(audio, { treatment }, (part) =>
          measureAudio({ ...part, origin }, options),
        );
        measured.push({ span, report });
      }
      return measured;
    },
    { tracks: options.tracks },
  );
}

/**
 * The spans of a file that a list names.
 *
 * @param onUnread called with lines of the list that are no span of the file
 * @throws AppError `usage` where the list cannot be read, or names none
 */
export async function spansOf(
  { file, header, origin }: Audio,
  listPath: string,
  onUnread: (line: UnreadLine) => void,
  set?: LabelledStart,
): Promise<NamedSpan[]> {
  const { sampleRateHz, frames } = header.format;
  const own = await readFileMetadata(file, file, origin ?? header.format);
  const timeCode = set ? startAtLabel(set) : own.timeCode;
  const { spans, unread } = readSpanList(readList(listPath), { sampleRateHz, frames, timeCode });
  for (const line of unread) onUnread(line);
  if (spans.length === 0) throw new AppError('usage', { reason: messages.none(listPath) });
  return spans;
}

function readList(path: string): string {
  try {
    return readFileSync(path, 'utf8');
  } catch (error) {
    throw new AppError('usage', { reason: messages.unreadable(path) }, { cause: error });
  }
}
