import { resolve } from 'node:path';
import PDFDocument from 'pdfkit';
import type { Certificate } from '@/core/delivery/certificate';
import { documentOf } from '@/core/spec/spec';
import { formatBytes, formatLevel, formatNumber, formatTime } from '@/core/units/format';
import { drawCurve } from './pdf-curve';
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

const FONTS = {
  text: 'atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-400-normal.woff',
  bold: 'atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-700-normal.woff',
  mono: 'atkinson-hyperlegible-mono/files/atkinson-hyperlegible-mono-latin-400-normal.woff',
} as const;

/** Certificates on A4, a page for each; of several, with a summary ahead of them. */
export function certificatePdf(certificates: readonly Certificate[]): Promise<Buffer> {
  const [first] = certificates;
  const pdf = new PDFDocument({
    size: 'A4',
    margin: MARGIN,
    autoFirstPage: false,
    info: { Title: first ? `Certificate: ${first.programme}` : 'Certificates', Creator: 'Opsimeter' },
  });
  for (const [name, path] of Object.entries(FONTS)) {
    pdf.registerFont(name, resolve(/*turbopackIgnore: true*/ 'node_modules/@fontsource', path));
  }
  const pieces: Buffer[] = [];
  pdf.on('data', (piece: Buffer) => pieces.push(piece));
  const whole = new Promise<Buffer>((done, fail) => {
    pdf.on('end', () => done(Buffer.concat(pieces)));
    pdf.on('error', fail);
  });
  if (certificates.length > 1) drawSummary(pdf, certificates);
  for (const certificate of certificates) drawCertificate(pdf, certificate);
  if (certificates.length === 0) {
    pdf.addPage();
    pdf.font('text').fontSize(12).text('Nothing has been handed over yet.');
  }
  pdf.end();
  return whole;
}

function drawCertificate(pdf: Pdf, certificate: Certificate): void {
  const { programme, job, spec, inside, acceptedReason, issuedAt, readings } = certificate;
  pdf.addPage();
  title(pdf, programme, `${job} · certificate for ${spec.name}, version ${spec.version}`);
  state(pdf, inside, acceptedReason);
  section(pdf, 'The file');
  for (const { fileName, channel, sizeBytes, sha256 } of certificate.files) {
    row(pdf, channel ? `Channel ${channel}` : 'Name', `${fileName} · ${formatBytes(sizeBytes)}`);
    row(pdf, 'SHA-256', sha256, { isMono: true });
  }
  row(pdf, 'Format', `${certificate.formatText} · ${certificate.layout}`);
  row(
    pdf,
    'Length',
    `${formatTime(certificate.durationSeconds, { milliseconds: true })} · ${certificate.frames} frames`,
  );
  if (certificate.audioSha256) row(pdf, 'SHA-256 of its samples', certificate.audioSha256, { isMono: true });
  row(pdf, 'Made from', certificate.source.fileName);
  row(pdf, 'SHA-256 of that', certificate.source.sha256, { isMono: true });

  section(pdf, 'What was asked, and what was read back from the file');
  row(pdf, 'Source', documentOf(spec));
  for (const { name, found, required, inside: isInside } of certificate.checks) {
    row(pdf, name, `${found}, required ${plain(required)}`, { mark: isInside });
  }
  for (const text of certificate.notJudged) row(pdf, 'Not judged', plain(text));

  section(pdf, 'Readings');
  const levels: [string, string][] = [
    ['Integrated', formatLevel(readings.integratedLufs, 'LUFS', 2)],
    ['Loudness range', formatLevel(readings.loudnessRangeLu, 'LU', 2)],
    ['Momentary max', formatLevel(readings.maxMomentaryLufs, 'LUFS', 2)],
    ['Short-term max', formatLevel(readings.maxShortTermLufs, 'LUFS', 2)],
    ['True peak', formatLevel(readings.truePeakDbtp, 'dBTP', 2)],
    ['Sample peak', formatLevel(readings.samplePeakDbfs, 'dBFS', 2)],
    ['RMS, re full-scale peak', formatLevel(readings.rmsDbfs, 'dBFS', 2)],
    ['Noise floor', formatLevel(readings.noiseFloorDbfs, 'dBFS', 2)],
  ];
  inTwo(pdf, levels);
  if (certificate.curve) drawCurve(pdf, certificate);

  section(pdf, `The treatment, version ${certificate.treatmentVersion}`);
  const steps = certificate.treatment.length > 0 ? certificate.treatment.join(' · ') : 'Nothing was done to it';
  const reduction =
    certificate.reductionDb === null
      ? 'No limiter.'
      : `The limiter took ${formatNumber(certificate.reductionDb)} dB at most.`;
  pdf
    .font('text')
    .fontSize(9)
    .fillColor(COLOURS.ink)
    .text(`${plain(steps)}. ${reduction}`, MARGIN, pdf.y, { width: WIDTH });
  footer(pdf, `Written ${when(certificate.writtenAt)} · issued ${when(issuedAt)} · engine ${readings.engineVersion}`);
}

function drawSummary(pdf: Pdf, certificates: readonly Certificate[]): void {
  const [first] = certificates as [Certificate, ...Certificate[]];
  pdf.addPage();
  const misses = certificates.filter(({ inside }) => !inside).length;
  title(
    pdf,
    first.job,
    `${certificates.length} deliveries, ${misses === 0 ? 'all inside' : `${misses} outside their specs`}`,
  );
  pdf.moveDown(0.5);
  for (const { programme, spec, files, formatText, readings, inside, acceptedReason } of certificates) {
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
    if (acceptedReason) pdf.text(`Handed over all the same: ${acceptedReason}`, MARGIN + 16, pdf.y + 1, { width: 320 });
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
