import { describeFormat } from '@/core/delivery/format';
import { formatIsrc } from '@/core/file-formats/tags';
import { cueTime } from '@/core/lineup/assembly';
import type { RecordPlan } from '@/core/lineup/record';
import { READING_NAMES } from '@/core/loudness/reading-names';
import type { Assessment } from '@/core/spec/assessment';
import { documentOf } from '@/core/spec/spec';
import { formatBytes, formatLevel, formatNumber } from '@/core/units/format';
import type { Assembled } from '@/workers/node/assembly-order';
import type { StoredAssemblyOrder } from '../db/stored/assembly';
import { trackSheetPdfMessages as messages } from './messages';
import { drawPdf } from './pdf-document';
import {
  BOTTOM,
  COLOURS,
  footer,
  hairline,
  inTwo,
  MARGIN,
  type Pdf,
  plain,
  row,
  section,
  state,
  title,
  WIDTH,
  when,
} from './pdf-parts';

/** Where the columns of the list begin, in points from the margin, and how wide they are. */
const COLUMNS = {
  number: [0, 16],
  title: [20, 152],
  start: [176, 50],
  length: [230, 50],
  isrc: [284, 82],
  loudness: [366, 46],
  fromWhole: [414, 38],
  peak: [454, 45],
} as const;
type Column = keyof typeof COLUMNS;
const ROW_HEIGHT = 15;

/** The track sheet of a record that was written: its tracks with their times and codes, what was measured, and every file with its hash. */
export function trackSheetPdf(
  written: Assembled & { cd: Assessment[] | null; order: StoredAssemblyOrder; plan: RecordPlan; writtenAtMs: number },
): Promise<Buffer> {
  const { order, plan, report, verdict, rows, cd, files, writtenAtMs } = written;
  const { assembly, format } = plan;
  const { record, spec, name } = order;
  return drawPdf(messages.title(name), (pdf) => {
    pdf.addPage();
    title(
      pdf,
      name,
      [messages.about(rows.length, cueTime(assembly.frames, assembly.sampleRateHz)), record.artist]
        .filter(Boolean)
        .join(' · '),
    );
    state(pdf, verdict.inside, { reason: null, by: null });
    row(pdf, messages.format, describeFormat(format));
    row(pdf, messages.spec, `${spec.name} · ${documentOf(spec)}`);
    if (record.catalogNumber) row(pdf, messages.catalogNumber, record.catalogNumber, { isMono: true });
    section(pdf, messages.tracks);
    line(pdf, messages.columns, 'text');
    for (const track of rows) {
      line(pdf, {
        number: String(track.number),
        title: track.title,
        start: track.start,
        length: track.length,
        isrc: track.isrc ? formatIsrc(track.isrc) : '',
        loudness: numberOf(track.integratedLufs),
        fromWhole: track.fromWholeLu === null ? '' : formatNumber(track.fromWholeLu, 1, { plus: true }),
        peak: numberOf(track.truePeakDbtp),
      });
    }
    section(pdf, messages.requirements);
    for (const { name: what, found, required, inside } of [...verdict.items, ...(cd ?? [])]) {
      row(pdf, what, messages.found(found, plain(required)), { mark: inside });
    }
    section(pdf, messages.whole);
    const listed = ['integratedLufs', 'loudnessRangeLu', 'maxShortTermLufs', 'truePeakDbtp', 'samplePeakDbfs'] as const;
    inTwo(
      pdf,
      listed.map((key) => [READING_NAMES[key].name, formatLevel(report.readings[key], READING_NAMES[key].unit, 2)]),
    );
    section(pdf, messages.files);
    for (const { fileName, sizeBytes, sha256 } of files) {
      if (pdf.y > BOTTOM - 30) pdf.addPage();
      row(pdf, formatBytes(sizeBytes), fileName);
      row(pdf, 'SHA-256', sha256, { isMono: true });
    }
    footer(pdf, messages.footer(when(new Date(writtenAtMs).toISOString()), report.readings.engineVersion));
  });
}

function line(pdf: Pdf, texts: Readonly<Record<Column, string>>, font: 'text' | 'mono' = 'mono'): void {
  if (pdf.y > BOTTOM - ROW_HEIGHT) pdf.addPage();
  const { y } = pdf;
  hairline(pdf, y);
  for (const [column, [from, width]] of Object.entries(COLUMNS) as [Column, readonly [number, number]][]) {
    const isTitle = column === 'title' && font === 'mono';
    const isLevel = column === 'loudness' || column === 'fromWhole' || column === 'peak';
    pdf
      .font(isTitle ? 'bold' : font)
      .fontSize(8.5)
      .fillColor(font === 'text' ? COLOURS.mute : COLOURS.ink)
      .text(texts[column], MARGIN + from, y + 3, {
        width: Math.min(width, WIDTH - from),
        height: ROW_HEIGHT - 4,
        lineBreak: false,
        ellipsis: true,
        align: isLevel ? 'right' : 'left',
      });
  }
  pdf.y = y + ROW_HEIGHT;
}

function numberOf(level: number | null): string {
  return level === null ? '' : formatNumber(level);
}
