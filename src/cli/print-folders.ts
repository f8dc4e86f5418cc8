/** What is printed of records and stems that were written, each in a folder of its own. */
import { formatLevel } from '@/core/units/format';
import type { WrittenBook } from './books';
import { deliverCommandMessages as messages } from './messages';
import { verdictLines } from './print';
import type { WrittenRecord } from './records';
import type { WrittenStemsFolder } from './stems';

export function recordJson(name: string, { folder, spec, report, ...written }: WrittenRecord) {
  const { files, rows, verdict, cd, reduction, gainsDb, stoppedBy } = written;
  const { readings, format } = report;
  return {
    record: name,
    folder,
    spec: spec.id,
    files,
    readings,
    frames: format.frames,
    tracks: rows.map((row, i) => ({ ...row, gainDb: gainsDb[i] })),
    stoppedBy,
    reduction,
    verdict,
    cd,
  };
}

export function recordLines(
  name: string,
  { folder, spec, formatText, rows, report, verdict, cd, stoppedBy }: WrittenRecord,
): string[] {
  const { integratedLufs, truePeakDbtp } = report.readings;
  return [
    `${name} → ${folder}`,
    `  ${messages.record(formatText, rows.length, formatLevel(integratedLufs, 'LUFS'), formatLevel(truePeakDbtp, 'dBTP'))}`,
    ...rows.map(({ number, start, title, isrc }) => `  ${messages.track(number, start, title, isrc)}`),
    ...(stoppedBy.length > 0 ? [`  ▲ ${messages.stoppedBy(stoppedBy)}`] : []),
    ...verdictLines(verdict, spec),
    ...(cd ?? []).filter(({ inside }) => !inside).map(({ phrase }) => `  ${messages.cd(phrase)}`),
  ];
}

export function bookJson(name: string, { folder, spec, missed, written }: WrittenBook) {
  const { files, rows, verdict, report } = written ?? {};
  return { book: name, folder, spec: spec.id, missed, files, tracks: rows, readings: report?.readings, verdict };
}

export function bookLines(name: string, { folder, spec, missed, written }: WrittenBook): string[] {
  if (!written) {
    return [messages.bookNotWritten(name, missed.length), ...missed.map(({ title, text }) => `  ▲ ${title}: ${text}`)];
  }
  const { formatText, wholeText, rows, files, verdict } = written;
  return [
    `${name} → ${folder}`,
    `  ${messages.book(formatText, rows.length, wholeText)}`,
    ...files.filter(({ role }) => role === 'audio' || role === 'sample').map(({ fileName }) => `  ${fileName}`),
    ...verdictLines(verdict, spec),
  ];
}

export function stemsJson(name: string, { folder, spec, report, ...written }: WrittenStemsFolder) {
  const { files, residual, reduction, verdict } = written;
  return { stems: name, folder, spec: spec.id, files, readings: report.readings, residual, reduction, verdict };
}

export function stemsLines(name: string, written: WrittenStemsFolder): string[] {
  const { folder, spec, formatText, files, report, residual, verdict } = written;
  const { integratedLufs, truePeakDbtp } = report.readings;
  const level = (db: number | null) => formatLevel(db, 'dBFS');
  const { nulls, greatestResidualDb, toleranceDb } = residual;
  const about = messages.stems(formatText, files.length - 1);
  return [
    `${name} → ${folder}`,
    `  ${about}, ${formatLevel(integratedLufs, 'LUFS')}, ${formatLevel(truePeakDbtp, 'dBTP')}`,
    `  ${nulls ? messages.addUp(level(greatestResidualDb)) : messages.doNotAddUp(level(greatestResidualDb), level(toleranceDb))}`,
    ...verdictLines(verdict, spec),
  ];
}
