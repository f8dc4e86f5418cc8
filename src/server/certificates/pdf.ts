import type { Certificate } from '@/core/delivery/certificate';
import { type NamedReading, READING_NAMES } from '@/core/loudness/reading-names';
import { documentOf } from '@/core/spec/spec';
import { formatBytes, formatLevel, formatNumber, formatTime } from '@/core/units/format';
import { describeTimeCodeRate } from '@/core/units/time-code';
import { pdfMessages as messages } from './messages';
import { drawCurve } from './pdf-curve';
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
  shape,
  state,
  title,
  WIDTH,
  when,
} from './pdf-parts';

/** Certificates on A4, a page for each; of several, with a summary ahead of them. */
export function certificatePdf(certificates: readonly Certificate[]): Promise<Buffer> {
  const [first] = certificates;
  return drawPdf(first ? messages.certificateOf(first.programme) : messages.certificates, (pdf) => {
    if (certificates.length > 1) drawSummary(pdf, certificates);
    for (const certificate of certificates) drawCertificate(pdf, certificate);
    if (certificates.length === 0) {
      pdf.addPage();
      pdf.font('text').fontSize(12).text(messages.nothingYet);
    }
  });
}

/** The readings of the written file, in two columns. */
const LISTED = [
  'integratedLufs',
  'loudnessRangeLu',
  'maxMomentaryLufs',
  'maxShortTermLufs',
  'truePeakDbtp',
  'samplePeakDbfs',
  'rmsDbfs',
  'noiseFloorDbfs',
] as const satisfies readonly NamedReading[];

function drawCertificate(pdf: Pdf, certificate: Certificate): void {
  const { programme, job, spec, inside, acceptedReason, acceptedBy, approved, issuedAt, readings } = certificate;
  pdf.addPage();
  title(pdf, programme, messages.certificateForVersion(job, spec.name, spec.version));
  state(pdf, inside, { reason: acceptedReason, by: acceptedBy });
  if (approved) row(pdf, messages.approvedBy, `${approved.by}, ${when(approved.at)}`);
  section(pdf, messages.theFile);
  for (const { fileName, channel, sizeBytes, sha256 } of certificate.files) {
    row(pdf, channel ? messages.channel(channel) : messages.name, `${fileName} · ${formatBytes(sizeBytes)}`);
    row(pdf, 'SHA-256', sha256, { isMono: true });
  }
  row(pdf, messages.format, `${certificate.formatText} · ${certificate.layout}`);
  row(
    pdf,
    messages.length,
    `${formatTime(certificate.durationSeconds, { milliseconds: true })} · ${certificate.frames} frames`,
  );
  const { startTimeCode } = certificate;
  if (startTimeCode) {
    row(pdf, messages.startsAt, `${startTimeCode.label} · ${describeTimeCodeRate(startTimeCode.rate)}`);
  }
  if (certificate.audioSha256) row(pdf, messages.samplesSha256, certificate.audioSha256, { isMono: true });
  for (const { name, kind, place, of } of certificate.partOf)
    row(pdf, messages.partOf, messages.place(name, kind, place, of));
  row(pdf, messages.madeFrom, certificate.source.fileName);
  row(pdf, messages.sourceSha256, certificate.source.sha256, { isMono: true });

  section(pdf, messages.requirements);
  row(pdf, messages.source, documentOf(spec));
  for (const { name, found, required, inside: isInside } of certificate.checks) {
    row(pdf, name, `${found}, required ${plain(required)}`, { mark: isInside });
  }
  for (const text of certificate.notJudged) row(pdf, messages.notAssessed, plain(text));

  section(pdf, messages.readings);
  const levels = LISTED.map((key) => {
    const { name, unit } = READING_NAMES[key];
    return [key === 'rmsDbfs' ? messages.rms : name, formatLevel(readings[key], unit, 2)] as const;
  });
  inTwo(pdf, levels);
  if (certificate.curve) drawCurve(pdf, certificate);

  section(pdf, messages.treatment(certificate.treatmentVersion));
  const steps = certificate.treatment.length > 0 ? certificate.treatment.join(' · ') : messages.unchanged;
  const reduction =
    certificate.reductionDb === null ? messages.noLimiter : messages.limited(formatNumber(certificate.reductionDb));
  pdf
    .font('text')
    .fontSize(9)
    .fillColor(COLOURS.ink)
    .text(`${plain(steps)}. ${reduction}`, MARGIN, pdf.y, { width: WIDTH });
  footer(pdf, messages.footer(when(certificate.writtenAt), when(issuedAt), readings.engineVersion));
}

function drawSummary(pdf: Pdf, certificates: readonly Certificate[]): void {
  const [first] = certificates as [Certificate, ...Certificate[]];
  pdf.addPage();
  const misses = certificates.filter(({ inside }) => !inside).length;
  title(pdf, first.job, messages.summary(certificates.length, misses));
  pdf.moveDown(0.5);
  for (const { programme, spec, files, formatText, readings, inside, acceptedReason, acceptedBy } of certificates) {
    if (pdf.y > BOTTOM - 50) pdf.addPage();
    const y = pdf.y;
    hairline(pdf, y);
    shape(pdf, inside, MARGIN + 4, y + 14);
    pdf
      .font('bold')
      .fontSize(10)
      .fillColor(COLOURS.ink)
      .text(`${programme} · ${spec.name}`, MARGIN + 16, y + 7, { width: 300 });
    pdf.font('text').fontSize(8.5).fillColor(COLOURS.mute);
    pdf.text(`${files.map(({ fileName }) => fileName).join(', ')} · ${formatText}`, MARGIN + 16, pdf.y + 1, {
      width: 320,
    });
    if (acceptedReason) pdf.text(messages.accepted(acceptedReason, acceptedBy), MARGIN + 16, pdf.y + 1, { width: 320 });
    const after = pdf.y + 6;
    pdf
      .font('mono')
      .fontSize(9)
      .fillColor(inside ? COLOURS.slide : COLOURS.breach);
    pdf.text(formatLevel(readings.integratedLufs, 'LUFS', 2), MARGIN + 345, y + 8, { width: 154, align: 'right' });
    pdf.text(formatLevel(readings.truePeakDbtp, 'dBTP', 2), MARGIN + 345, y + 21, { width: 154, align: 'right' });
    pdf.y = Math.max(after, y + 38);
  }
  footer(pdf, `Issued ${when(first.issuedAt)}`);
}
