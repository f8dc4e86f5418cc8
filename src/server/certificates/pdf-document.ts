import { resolve } from 'node:path';
import PDFDocument from 'pdfkit';
import { pdfMessages as messages } from './messages';
import { MARGIN, type Pdf } from './pdf-parts';

const FONTS = {
  text: 'atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-400-normal.woff',
  bold: 'atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-700-normal.woff',
  mono: 'atkinson-hyperlegible-mono/files/atkinson-hyperlegible-mono-latin-400-normal.woff',
} as const;

/** A PDF on A4. Whatever draws adds its own pages. */
export function drawPdf(title: string, draw: (pdf: Pdf) => void): Promise<Buffer> {
  const pdf = new PDFDocument({
    size: 'A4',
    margin: MARGIN,
    autoFirstPage: false,
    info: { Title: title, Creator: messages.opsimeter },
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
  draw(pdf);
  pdf.end();
  return whole;
}
