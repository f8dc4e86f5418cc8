import { describeFormat } from '@/core/delivery/format';
import type { StemsPlan } from '@/core/lineup/stems/stems';
import { READING_NAMES } from '@/core/loudness/reading-names';
import { documentOf } from '@/core/spec/spec';
import { describeTreatment } from '@/core/treatment/treatment';
import { formatBytes, formatLevel, formatNumber } from '@/core/units/format';
import type { WrittenStems } from '@/workers/node/write-stems';
import type { StoredAssemblyOrder } from '../db/stored/assembly';
import { stemsPdfMessages as messages } from './messages';
import { drawPdf } from './pdf-document';
import { BOTTOM, footer, inTwo, plain, row, section, title, when } from './pdf-parts';

/** The certificate of stems that were written: that they add up to their master, what was done to all of them, and every file with its hash. */
export function stemsPdf(
  written: WrittenStems & { order: StoredAssemblyOrder; plan: StemsPlan; isTimed: boolean; writtenAtMs: number },
): Promise<Buffer> {
  const { order, plan, report, verdict, residual, reduction, files, isTimed, writtenAtMs } = written;
  const { spec, name } = order;
  const { format, treatment } = plan;
  const level = (db: number | null) => (db === null ? messages.nothing : formatLevel(db, 'dBFS'));
  return drawPdf(messages.title(name), (pdf) => {
    pdf.addPage();
    title(pdf, name, messages.about(files.length - 1));
    row(pdf, messages.format, describeFormat(format));
    row(pdf, messages.spec, `${spec.name} · ${documentOf(spec)}`);
    row(pdf, messages.aligned, isTimed ? messages.byTime : messages.byStart);
    section(pdf, messages.sum);
    const { nulls, residualDb, greatestResidualDb, mixDb, toleranceDb } = residual;
    row(pdf, messages.addsUp, nulls ? messages.does : messages.doesNot, { mark: nulls });
    row(pdf, messages.left, level(residualDb));
    row(pdf, messages.most, messages.allowed(level(greatestResidualDb), level(toleranceDb)));
    row(pdf, messages.master, level(mixDb));
    section(pdf, messages.treatment);
    const steps = describeTreatment(treatment, format.sampleRateHz);
    row(pdf, messages.steps, steps.length > 0 ? plain(steps.join('; ')) : messages.unchanged);
    if (reduction) row(pdf, messages.limiter, messages.limited(formatNumber(reduction.greatestDb)));
    section(pdf, messages.requirements);
    for (const { name: what, found, required, inside } of verdict.items) {
      row(pdf, what, messages.found(found, plain(required)), { mark: inside });
    }
    section(pdf, messages.readings);
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
