import { type FoundIn, findingsOf } from '@/core/findings/findings';
import { type NamedReading, READING_NAMES } from '@/core/loudness/reading-names';
import type { Readings } from '@/core/loudness/readings';
import { type Assessment, missedOf, type Verdict, verdictText } from '@/core/spec/assessment';
import { formatDeviation } from '@/core/spec/requirements/requirement';
import { documentOf, type Spec } from '@/core/spec/spec';
import { formatLevel, formatSampleRate, formatTime } from '@/core/units/format';
import { type AudioFormat, describeContents } from '@/formats/audio-format';
import { printMessages as messages } from './messages';

const MARKS = { inside: '◆', over: '▲', under: '▼', missed: '▲', 'not-assessed': '◌' } as const;

export function formatLine(format: AudioFormat): string {
  return [
    describeContents(format),
    formatSampleRate(format.sampleRateHz),
    format.layout,
    formatTime(format.durationSeconds, { milliseconds: true }),
  ].join(' · ');
}

type ReadingRow = readonly [name: string, value: (readings: Readings) => string];

function levelRow(key: NamedReading, remark = ''): ReadingRow {
  const { name, unit } = READING_NAMES[key];
  return [name, (readings) => formatLevel(readings[key], unit) + remark];
}

const READING_ROWS: readonly ReadingRow[] = [
  levelRow('integratedLufs'),
  levelRow('loudnessRangeLu'),
  levelRow('maxMomentaryLufs'),
  levelRow('maxShortTermLufs'),
  levelRow('truePeakDbtp'),
  levelRow('samplePeakDbfs'),
  levelRow('peakToLoudnessLu'),
  levelRow('rmsDbfs', messages.rmsRemark),
  levelRow('noiseFloorDbfs', messages.noiseFloorRemark),
  [messages.clippedRuns, (readings) => String(readings.clippedRuns)],
];

export function readingLines(readings: Readings): string[] {
  return READING_ROWS.map(([name, value]) => `  ${name.padEnd(18)}${value(readings)}`);
}

/** The readings of several beside one another. */
export function readingTable(columns: readonly { heading: string; readings: Readings }[]): string[] {
  const width = Math.max(14, ...columns.map(({ heading }) => heading.length + 2));
  const line = (name: string, cells: readonly string[]) =>
    `  ${name.padEnd(18)}${cells.map((cell) => cell.padStart(width)).join('')}`;
  return [
    line(
      '',
      columns.map(({ heading }) => heading),
    ),
    ...READING_ROWS.map(([name, value]) =>
      line(
        name,
        columns.map(({ readings }) => value(readings).split(' (')[0] as string),
      ),
    ),
  ];
}

/** What was, and what has become of it. */
export function changeLines(before: Readings, after: Readings): string[] {
  return READING_ROWS.map(([name, value]) => {
    const [was] = value(before).split(' (');
    return `  ${name.padEnd(18)}${(was as string).padStart(13)} → ${value(after)}`;
  });
}

export function findingLines(report: FoundIn): string[] {
  return findingsOf(report).map(({ severity, message }) => `  ${severity === 'breach' ? '▲' : '○'} ${message}`);
}

export function verdictLines(verdict: Verdict, spec: Spec): string[] {
  const mark = verdict.inside ? MARKS.inside : missedOf(verdict).length > 0 ? MARKS.missed : MARKS['not-assessed'];
  const text = verdict.inside
    ? `inside ${spec.name}`
    : `${verdictText(verdict).replace(/^outside$/, `outside ${spec.name}`)}`;
  return [
    `  ${mark} ${text} (${documentOf(spec)})`,
    ...verdict.items.map(itemLine),
    ...verdict.notJudged.map((demand) => messages.checkByHand(demand)),
  ];
}

function itemLine(item: Assessment): string {
  const { state, name, found, required, why } = item;
  return `    ${MARKS[state]} ${name.padEnd(22)}${why === null ? found : `not assessed: ${why}`}, required ${required}${missText(item)}`;
}

/** One short clause for each number that misses: " — 2.4 dB over". */
function missText({ state, deviation, unit }: Assessment): string {
  return unit !== null && (state === 'over' || state === 'under')
    ? ` — ${formatDeviation(deviation, unit)} ${state}`
    : '';
}
