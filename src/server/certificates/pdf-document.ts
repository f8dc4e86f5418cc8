import { resolve } from 'node:path';
import PDFDocument from 'pdfkit';
import { pdfMessages as messages } from './messages';
import { MARGIN, type Pdf } from './pdf-parts';

/** Whole and not packed: names have letters of every language, and each document opens its fonts anew. */
const FONTS = {
  text: 'atkinson-hyperlegible-next/400Regular/AtkinsonHyperlegibleNext_400Regular.ttf',
  bold: 'atkinson-hyperlegible-next/700Bold/AtkinsonHyperlegibleNext_700Bold.ttf',
  mono: 'atkinson-hyperlegible-mono/400Regular/AtkinsonHyperlegibleMono_400Regular.ttf',
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
    pdf.registerFont(name, resolve(/*turbopackIgnore: true*/ 'node_modules/@expo-google-fonts', path));
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
