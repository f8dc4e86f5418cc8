import type { Certificate } from '@/core/delivery/certificate';
import { formatNumber, formatTime } from '@/core/units/format';
import { pdfCurveMessages as messages } from './messages';
import { BOTTOM, COLOURS, MARGIN, type Pdf, WIDTH } from './pdf-parts';

const CURVE_HEIGHT = 92;
const TOP_LUFS = 0;
const BOTTOM_LUFS = -48;

/** Short-term loudness along time over the spec's window. */
export function drawCurve(pdf: Pdf, { curve, spec, durationSeconds }: Certificate): void {
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
  pdf.text(messages.caption, left, top + CURVE_HEIGHT + 3, {
    width: width - 60,
    lineBreak: false,
  });
  pdf.text(formatTime(durationSeconds), left, top + CURVE_HEIGHT + 3, { width, align: 'right' });
  pdf.y = top + CURVE_HEIGHT + 12;
}
