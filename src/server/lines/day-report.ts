import { and, asc, eq, gte, lt, ne } from 'drizzle-orm';
import { type DayColour, dayPicture, timeOfDay } from '@/core/live/day-picture';
import { type DayReport, dayReport, type LoggedLevels, type OutsideInterval } from '@/core/live/day-report';
import { documentOf } from '@/core/spec/spec';
import { formatDay, formatLevel, formatNumber, formatTime } from '@/core/units/format';
import { drawPdf } from '../certificates/pdf-document';
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
  title,
  WIDTH,
} from '../certificates/pdf-parts';
import type { ServerContext } from '../context';
import { lineSeconds } from '../db/schema';
import { eventsBetween } from './line-events';
import { readLog } from './line-log';
import { lineRow, specOfLine } from './lines';
import { dayReportMessages as messages } from './messages';

type Context = Pick<ServerContext, 'db'>;

const MOST_EVENTS = 10_000;
/** In points, which are the picture's own pixels too. */
const PICTURE_HEIGHT = 190;
const PICTURE_WIDTH = 900;
const SVG_HEIGHT = 320;
const FILLS: Readonly<Record<DayColour, string>> = {
  frame: COLOURS.hair,
  target: COLOURS.stock,
  levels: COLOURS.slide,
  outside: COLOURS.breach,
  lost: COLOURS.mute,
};

/** What a line was between two times, from its log. Throws `not-found`. */
export function reportOf(server: Context, lineId: string, fromS: number, toS: number): DayReport {
  const line = lineRow(server, lineId);
  return dayReport({
    lineName: line.name,
    spec: specOfLine(server, line),
    fromS,
    toS,
    minutes: readLog(server, lineId, fromS, toS, 60),
    outside: secondsOutside(server, lineId, fromS, toS),
    events: eventsBetween(server, lineId, fromS * 1000, toS * 1000, MOST_EVENTS),
  });
}

function secondsOutside({ db }: Context, lineId: string, fromS: number, toS: number): LoggedLevels[] {
  return db
    .select()
    .from(lineSeconds)
    .where(
      and(
        eq(lineSeconds.lineId, lineId),
        gte(lineSeconds.atS, fromS),
        lt(lineSeconds.atS, toS),
        ne(lineSeconds.state, 'inside'),
      ),
    )
    .orderBy(asc(lineSeconds.atS))
    .all()
    .map(({ atS, state, momentaryLufs, shortTermLufs, truePeakDbtp }) => ({
      atS,
      maxMomentaryLufs: momentaryLufs,
      minShortTermLufs: shortTermLufs,
      maxShortTermLufs: shortTermLufs,
      truePeakDbtp,
      states: { inside: 0, over: 0, under: 0, lost: 0, [state]: 1 },
    }));
}

/** The day as a picture, as SVG. */
export function reportSvg(report: DayReport, utcOffsetMinutes: number): string {
  const { width, height, shapes, words } = dayPicture(report, PICTURE_WIDTH, SVG_HEIGHT, utcOffsetMinutes);
  const drawn = [
    ...shapes.map(({ colour, path }) => `<path fill="${FILLS[colour]}" d="${path}"/>`),
    ...words.map(
      ({ x, y, text, anchor }) =>
        `<text x="${x.toFixed(1)}" y="${y.toFixed(1)}" text-anchor="${anchor}" font-size="10" font-family="sans-serif" fill="${COLOURS.mute}">${text}</text>`,
    ),
  ];
  const name = escaped(messages.title(report.lineName));
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${width} ${height}"><title>${name}</title><rect width="${width}" height="${height}" fill="#ffffff"/>${drawn.join('')}</svg>\n`;
}

/** The day as a document: the picture, what it comes to, and every interval outside the spec. */
export function reportPdf(report: DayReport, utcOffsetMinutes: number): Promise<Buffer> {
  const { lineName, spec, seconds, outside, events, fromS, toS } = report;
  const time = (s: number) => timeOfDay(s, utcOffsetMinutes);
  const day = (s: number) => formatDay((s + utcOffsetMinutes * 60) * 1000);
  const logged = Object.values(seconds).reduce((sum, own) => sum + own, 0);
  const share = (own: number) => `${formatTime(own)} (${formatNumber(logged === 0 ? 0 : (100 * own) / logged, 2)} %)`;
  return drawPdf(messages.title(lineName), (pdf) => {
    pdf.addPage();
    title(
      pdf,
      lineName,
      messages.about(`${day(fromS)} ${time(fromS)}`, `${day(toS)} ${time(toS)}`, zoneOf(utcOffsetMinutes)),
    );
    row(pdf, messages.spec, `${spec.name} · ${documentOf(spec)}`);
    const isInside = outside.length === 0 && logged > 0;
    row(pdf, messages.state, isInside ? messages.inside : messages.outsideTimes(outside.length), { mark: isInside });
    drawPicture(pdf, report, utcOffsetMinutes);
    inTwo(pdf, [
      [messages.logged, formatTime(logged)],
      [messages.insideTime, share(seconds.inside)],
      [messages.overTime, share(seconds.over)],
      [messages.underTime, share(seconds.under)],
      [messages.lostTime, share(seconds.lost)],
      [messages.maxTruePeak, formatLevel(report.maxTruePeakDbtp, 'dBTP')],
      [messages.maxShortTerm, formatLevel(report.maxShortTermLufs, 'LUFS')],
      [messages.maxMomentary, formatLevel(report.maxMomentaryLufs, 'LUFS')],
    ]);
    section(pdf, messages.everyInterval);
    if (outside.length === 0) row(pdf, messages.none, '');
    for (const interval of outside) drawInterval(pdf, interval, time);
    if (events.length > 0) {
      section(pdf, messages.events);
      for (const { startMs, endMs, words } of events) {
        const lasted = endMs !== null && endMs > startMs ? ` – ${time(endMs / 1000)}` : '';
        row(pdf, `${time(startMs / 1000)}${lasted}`, plain(words));
      }
    }
    footer(pdf, messages.footer);
  });
}

function drawPicture(pdf: Pdf, report: DayReport, utcOffsetMinutes: number): void {
  const top = pdf.y + 8;
  const { shapes, words } = dayPicture(report, WIDTH, PICTURE_HEIGHT, utcOffsetMinutes);
  pdf.save().translate(MARGIN, top);
  for (const { colour, path } of shapes) if (path !== '') pdf.path(path).fill(FILLS[colour]);
  pdf.restore();
  pdf.font('mono').fontSize(7).fillColor(COLOURS.mute);
  for (const { x, y, text, anchor } of words) {
    const width = 60;
    const left = MARGIN + x - (anchor === 'end' ? width : anchor === 'middle' ? width / 2 : 0);
    const align = anchor === 'end' ? 'right' : anchor === 'middle' ? 'center' : 'left';
    pdf.text(text, left, top + y - 8, { width, align, lineBreak: false });
  }
  pdf.y = top + PICTURE_HEIGHT + 4;
}

function drawInterval(pdf: Pdf, interval: OutsideInterval, time: (s: number) => string): void {
  if (pdf.y > BOTTOM - 24) pdf.addPage();
  const { state, startS, endS, maxTruePeakDbtp, minShortTermLufs, maxShortTermLufs, words } = interval;
  const y = pdf.y;
  hairline(pdf, y);
  shape(pdf, false, MARGIN + 5, y + 9);
  pdf.font('mono').fontSize(8.5).fillColor(COLOURS.ink);
  pdf.text(`${time(startS)} – ${time(endS)}`, MARGIN + 16, y + 4, { lineBreak: false });
  pdf.text(formatTime(endS - startS), MARGIN + 130, y + 4, { width: 50, align: 'right' });
  const levels =
    state === 'lost'
      ? messages.lost
      : state === 'over'
        ? messages.over(formatLevel(maxShortTermLufs, 'LUFS'), formatLevel(maxTruePeakDbtp, 'dBTP'))
        : minShortTermLufs === null
          ? messages.silent
          : messages.under(formatLevel(minShortTermLufs, 'LUFS'));
  pdf.font('text').fontSize(9);
  pdf.text(plain([levels, ...words].join(' · ')), MARGIN + 196, y + 3.5, { width: WIDTH - 196 });
  pdf.y += 2;
}

function zoneOf(utcOffsetMinutes: number): string {
  if (utcOffsetMinutes === 0) return 'UTC';
  const [hours, minutes] = [Math.floor(Math.abs(utcOffsetMinutes) / 60), Math.abs(utcOffsetMinutes) % 60];
  return `UTC${utcOffsetMinutes > 0 ? '+' : '−'}${hours}${minutes === 0 ? '' : `:${String(minutes).padStart(2, '0')}`}`;
}

function escaped(text: string): string {
  return text.replaceAll('&', '&amp;').replaceAll('<', '&lt;');
}
