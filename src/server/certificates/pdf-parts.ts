import type PDFDocument from 'pdfkit';
import { pdfPartsMessages as messages } from './messages';

/** Of A4, in points. */
export const MARGIN = 48;
export const WIDTH = 595.28 - 2 * MARGIN;
export const BOTTOM = 841.89 - 56;
export const COLOURS = {
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

export type Pdf = InstanceType<typeof PDFDocument>;

/** Who says it, of what. */
export function title(pdf: Pdf, name: string, about: string): void {
  pdf.rect(0, 0, 595.28, 30).fill(COLOURS.ink);
  pdf.font('bold').fontSize(11).fillColor('#FFFFFF').text(messages.opsimeter, MARGIN, 9, { lineBreak: false });
  pdf.font('bold').fontSize(19).fillColor(COLOURS.ink).text(name, MARGIN, 46, { width: WIDTH });
  pdf
    .font('text')
    .fontSize(10)
    .fillColor(COLOURS.mute)
    .text(plain(about), MARGIN, pdf.y + 1, { width: WIDTH });
}

/** What the whole of it comes to. */
export function state(pdf: Pdf, inside: boolean, accepted: { reason: string | null; by: string | null }): void {
  const y = pdf.y + 8;
  const text = inside
    ? messages.inside
    : accepted.reason
      ? messages.accepted(accepted.reason, accepted.by)
      : messages.outside;
  pdf.font('bold').fontSize(10.5);
  const height = pdf.heightOfString(text, { width: WIDTH - 40 }) + 12;
  pdf.roundedRect(MARGIN, y, WIDTH, height, 6).fill(inside ? COLOURS.slide1 : COLOURS.breach1);
  shape(pdf, inside, MARGIN + 14, y + 12);
  pdf.fillColor(inside ? COLOURS.slide : COLOURS.breach).text(text, MARGIN + 28, y + 6, { width: WIDTH - 40 });
  pdf.y = y + height + 2;
}

/** A diamond for what is inside, a triangle for what is not: the shape tells before the colour does. */
export function shape(pdf: Pdf, inside: boolean, x: number, y: number): void {
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

/** The heading of a part. */
export function section(pdf: Pdf, name: string): void {
  if (pdf.y > BOTTOM - 70) pdf.addPage();
  pdf
    .font('bold')
    .fontSize(10.5)
    .fillColor(COLOURS.ink)
    .text(name, MARGIN, pdf.y + 10, { width: WIDTH });
  pdf.y += 3;
}

/** A name, and its value beside it. */
export function row(
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

/** Names and values in two columns. */
export function inTwo(pdf: Pdf, entries: readonly (readonly [string, string])[]): void {
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

/** At the foot of the page. */
export function footer(pdf: Pdf, text: string): void {
  // Beyond the margin, where text would otherwise begin another page.
  pdf.page.margins.bottom = 0;
  pdf
    .font('text')
    .fontSize(8)
    .fillColor(COLOURS.mute)
    .text(plain(text), MARGIN, 841.89 - 36, { width: WIDTH, lineBreak: false });
  pdf.page.margins.bottom = MARGIN;
}

export function hairline(pdf: Pdf, y: number): void {
  pdf
    .moveTo(MARGIN, y)
    .lineTo(MARGIN + WIDTH, y)
    .lineWidth(0.5)
    .stroke(COLOURS.hair);
}

/** Signs that the fonts shipped for paper do not have, in words. */
export function plain(text: string): string {
  return text.replaceAll('≤', messages.atMost).replaceAll('≥', messages.atLeast).replaceAll('→', 'to');
}

export function when(iso: string): string {
  return `${iso.slice(0, 10)} ${iso.slice(11, 16)} UTC`;
}
