import type { Finding } from '@/core/findings/finding';
import type { Readings } from '@/core/loudness/readings';
import type { Spec } from '@/core/spec/spec';
import type { Verdict, VerdictItem } from '@/core/spec/verdict';
import { formatLevel, formatNumber, formatSampleRate, formatTime, UNITS, type Unit } from '@/core/units/format';
import { type AudioFormat, describeContents } from '@/formats/audio-format';

const MARKS = { inside: '◆', over: '▲', under: '▼', 'not-measured': '◌' } as const;

export function formatLine(format: AudioFormat): string {
  return [
    describeContents(format),
    formatSampleRate(format.sampleRateHz),
    format.layout,
    formatTime(format.durationSeconds, { milliseconds: true }),
  ].join(' · ');
}

const READING_ROWS: readonly [string, (readings: Readings) => string][] = [
  ['Integrated', (readings) => formatLevel(readings.integratedLufs, 'LUFS')],
  ['Loudness range', (readings) => formatLevel(readings.loudnessRangeLu, 'LU')],
  ['Momentary max', (readings) => formatLevel(readings.maxMomentaryLufs, 'LUFS')],
  ['Short-term max', (readings) => formatLevel(readings.maxShortTermLufs, 'LUFS')],
  ['True peak', (readings) => formatLevel(readings.truePeakDbtp, 'dBTP')],
  ['Sample peak', (readings) => formatLevel(readings.samplePeakDbfs, 'dBFS')],
  ['Peak to loudness', (readings) => formatLevel(readings.peakToLoudnessLu, 'LU')],
  ['RMS', (readings) => `${formatLevel(readings.rmsDbfs, 'dBFS')} (re full-scale peak)`],
  ['Noise floor', (readings) => `${formatLevel(readings.noiseFloorDbfs, 'dBFS')} (quietest half-second, unweighted)`],
  ['Clipped runs', (readings) => String(readings.clippedRuns)],
];

export function readingLines(readings: Readings): string[] {
  return READING_ROWS.map(([name, value]) => `  ${name.padEnd(18)}${value(readings)}`);
}

/** What was, and what has become of it. */
export function changeLines(before: Readings, after: Readings): string[] {
  return READING_ROWS.map(([name, value]) => {
    const [was] = value(before).split(' (');
    return `  ${name.padEnd(18)}${(was as string).padStart(13)} → ${value(after)}`;
  });
}

export function findingLines(findings: readonly Finding[]): string[] {
  return findings.map(({ severity, message }) => `  ${severity === 'breach' ? '▲' : '○'} ${message}`);
}

export function verdictLines(verdict: Verdict, spec: Spec): string[] {
  const head = `  ${verdict.inside ? '◆ inside' : '▲ outside'} ${spec.name} (${spec.basis.document})`;
  const items = verdict.items.map(
    (item) =>
      `    ${MARKS[item.state]} ${item.name.padEnd(16)}${measuredText(item)}, asked ${item.required}${missText(item)}`,
  );
  return [head, ...items, ...verdict.notJudged.map((demand) => `    ◌ not judged here: ${demand}`)];
}

/** One short clause for each item that misses: "true peak 2.4 dB over". */
function missText(item: VerdictItem): string {
  if (item.inside || item.state === 'not-measured' || !isUnit(item.unit)) return '';
  const unit = item.unit === 'LUFS' ? 'LU' : 'dB';
  const missed = Math.abs(item.deviation);
  return ` — ${formatNumber(missed, missed < 0.1 ? 3 : 1)} ${unit} ${item.state}`;
}

function measuredText(item: VerdictItem): string {
  if (isUnit(item.unit)) return formatLevel(item.measured, item.unit);
  return `${item.measured} ${item.unit}`;
}

function isUnit(unit: string): unit is Unit {
  return (UNITS as readonly string[]).includes(unit);
}
