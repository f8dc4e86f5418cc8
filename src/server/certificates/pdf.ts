import { resolve } from 'node:path';
import PDFDocument from 'pdfkit';
import type { Certificate } from '@/core/delivery/certificate';
import { documentOf } from '@/core/spec/spec';
import { formatBytes, formatLevel, formatNumber, formatTime } from '@/core/units/format';

const MARGIN = 48;
const WIDTH = 595.28 - 2 * MARGIN;
const BOTTOM = 841.89 - 56;
const COLOURS = {
  ink: '#221D33',
  mute: '#6C6681',
  hair: '#DDD8E6',
  stock: '#CFC6E2',
  stock1: '#E9E4F3',
  slide: '#0F5C66',
  breach: '#C9401A',
  breach1: '#FBE4DC',
  slide1: '#D9EBEC',
} as const;

const FONTS = {
  text: 'atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-400-normal.woff',
  bold: 'atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-700-normal.woff',
  mono: 'atkinson-hyperlegible-mono/files/atkinson-hyperlegible-mono-latin-400-normal.woff',
} as const;

type Pdf = InstanceType<typeof PDFDocument>;

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

function title(pdf: Pdf, name: string, about: string): void {
  pdf.rect(0, 0, 595.28, 30).fill(COLOURS.ink);
  pdf.font('bold').fontSize(11).fillColor('#FFFFFF').text('Opsimeter', MARGIN, 9, { lineBreak: false });
  pdf.font('bold').fontSize(19).fillColor(COLOURS.ink).text(name, MARGIN, 46, { width: WIDTH });
  pdf
    .font('text')
    .fontSize(10)
    .fillColor(COLOURS.mute)
    .text(plain(about), MARGIN, pdf.y + 1, { width: WIDTH });
}

function state(pdf: Pdf, inside: boolean, acceptedReason: string | null): void {
  const y = pdf.y + 8;
  const text = inside
    ? 'Inside: every demand that can be judged is met'
    : acceptedReason
      ? `Outside, and handed over all the same: ${acceptedReason}`
      : 'Outside: it misses its spec';
  pdf.font('bold').fontSize(10.5);
  const height = pdf.heightOfString(text, { width: WIDTH - 40 }) + 12;
  pdf.roundedRect(MARGIN, y, WIDTH, height, 6).fill(inside ? COLOURS.slide1 : COLOURS.breach1);
  shape(pdf, inside, MARGIN + 14, y + 12);
  pdf.fillColor(inside ? COLOURS.slide : COLOURS.breach).text(text, MARGIN + 28, y + 6, { width: WIDTH - 40 });
  pdf.y = y + height + 2;
}

/** A diamond for what is inside, a triangle for what is not: the shape tells before the colour does. */
function shape(pdf: Pdf, inside: boolean, x: number, y: number): void {
  const points: [number, number][] = inside
    ? [
        [x, y - 4.5],
        [x + 4.5, y],
        [x, y + 4.5],
        [x - 4.5, y],
      ]
    : [
        [x, y - 4],
        [x + 4.5, y + 4],
        [x - 4.5, y + 4],
      ];
  pdf.polygon(...points).fill(inside ? COLOURS.slide : COLOURS.breach);
}

function section(pdf: Pdf, name: string): void {
  if (pdf.y > BOTTOM - 70) pdf.addPage();
  pdf
    .font('bold')
    .fontSize(10.5)
    .fillColor(COLOURS.ink)
    .text(name, MARGIN, pdf.y + 10, { width: WIDTH });
  pdf.y += 3;
}

function row(
  pdf: Pdf,
  name: string,
  value: string,
  { isMono = false, mark }: { isMono?: boolean; mark?: boolean } = {},
): void {
  if (pdf.y > BOTTOM - 24) pdf.addPage();
  const y = pdf.y;
  hairline(pdf, y);
  pdf
    .font('text')
    .fontSize(9)
    .fillColor(COLOURS.mute)
    .text(name, MARGIN, y + 3, { width: 140 });
  const after = pdf.y;
  if (mark !== undefined) shape(pdf, mark, MARGIN + 146, y + 9);
  pdf
    .font(isMono ? 'mono' : 'text')
    .fontSize(isMono ? 7.8 : 9)
    .fillColor(mark === false ? COLOURS.breach : COLOURS.ink);
  pdf.text(value, MARGIN + (mark === undefined ? 140 : 156), y + 3, {
    width: WIDTH - (mark === undefined ? 140 : 156),
  });
  pdf.y = Math.max(after, pdf.y) + 1.5;
}

function inTwo(pdf: Pdf, entries: readonly (readonly [string, string])[]): void {
  const half = Math.ceil(entries.length / 2);
  const top = pdf.y;
  entries.forEach(([name, value], i) => {
    const x = MARGIN + (i < half ? 0 : WIDTH / 2 + 10);
    const y = top + (i % half) * 14;
    pdf
      .moveTo(x, y)
      .lineTo(x + WIDTH / 2 - 10, y)
      .lineWidth(0.5)
      .stroke(COLOURS.hair);
    pdf
      .font('text')
      .fontSize(9)
      .fillColor(COLOURS.mute)
      .text(name, x, y + 3, { width: 120, lineBreak: false });
    pdf
      .font('mono')
      .fontSize(9)
      .fillColor(COLOURS.ink)
      .text(value, x + 110, y + 3, { width: WIDTH / 2 - 120, align: 'right' });
  });
  pdf.y = top + half * 14 + 2;
}

const CURVE_HEIGHT = 92;
const TOP_LUFS = 0;
const BOTTOM_LUFS = -48;

/** Short-term loudness along time over the spec's window. */
function drawCurve(pdf: Pdf, { curve, spec, durationSeconds }: Certificate): void {
  if (!curve) return;
  if (pdf.y > BOTTOM - CURVE_HEIGHT - 40) pdf.addPage();
  const [left, top, width] = [MARGIN + 26, pdf.y + 10, WIDTH - 26];
  const toY = (lufs: number) =>
    top + ((TOP_LUFS - Math.min(TOP_LUFS, Math.max(BOTTOM_LUFS, lufs))) / (TOP_LUFS - BOTTOM_LUFS)) * CURVE_HEIGHT;
  const toX = (seconds: number) => left + (seconds / durationSeconds) * width;
  pdf.rect(left, top, width, CURVE_HEIGHT).lineWidth(0.5).stroke(COLOURS.hair);
  if (spec.loudness?.measure === 'integrated') {
    const { target, toleranceAbove, toleranceBelow } = spec.loudness;
    const from = toY(target + toleranceAbove);
    pdf.rect(left, from, width, Math.max(1.5, toY(target - toleranceBelow) - from)).fill(COLOURS.stock);
  }
  for (const lufs of [-12, -24, -36]) {
    pdf
      .font('mono')
      .fontSize(7)
      .fillColor(COLOURS.mute)
      .text(formatNumber(lufs, 0), MARGIN, toY(lufs) - 3.5, { width: 22, align: 'right' });
  }
  let isDown = false;
  curve.shortTermLufs.forEach((lufs, i) => {
    if (lufs === null) {
      isDown = false;
      return;
    }
    const [x, y] = [toX(Math.min(durationSeconds, (i + 1) * curve.secondsEach)), toY(lufs)];
    if (isDown) pdf.lineTo(x, y);
    else pdf.moveTo(x, y);
    isDown = true;
  });
  pdf.lineWidth(1).stroke(COLOURS.slide);
  pdf.font('text').fontSize(7.5).fillColor(COLOURS.mute);
  pdf.text('Short-term loudness in LUFS along time', left, top + CURVE_HEIGHT + 3, {
    width: width - 60,
    lineBreak: false,
  });
  pdf.text(formatTime(durationSeconds), left, top + CURVE_HEIGHT + 3, { width, align: 'right' });
  pdf.y = top + CURVE_HEIGHT + 12;
}

function footer(pdf: Pdf, text: string): void {
  // Beyond the margin, where text would otherwise begin another page.
  pdf.page.margins.bottom = 0;
  pdf
    .font('text')
    .fontSize(8)
    .fillColor(COLOURS.mute)
    .text(plain(text), MARGIN, 841.89 - 36, { width: WIDTH, lineBreak: false });
  pdf.page.margins.bottom = MARGIN;
}

function hairline(pdf: Pdf, y: number): void {
  pdf
    .moveTo(MARGIN, y)
    .lineTo(MARGIN + WIDTH, y)
    .lineWidth(0.5)
    .stroke(COLOURS.hair);
}

/** Signs that the fonts shipped for paper do not have, in words. */
function plain(text: string): string {
  return text.replaceAll('≤', 'at most').replaceAll('≥', 'at least').replaceAll('→', 'to');
}

function when(iso: string): string {
  return `${iso.slice(0, 10)} ${iso.slice(11, 16)} UTC`;
}
