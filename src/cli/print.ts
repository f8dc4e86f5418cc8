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

export function readingLines(readings: Readings): string[] {
  const rows: [string, string][] = [
    ['Integrated', formatLevel(readings.integratedLufs, 'LUFS')],
    ['Loudness range', formatLevel(readings.loudnessRangeLu, 'LU')],
    ['Momentary max', formatLevel(readings.maxMomentaryLufs, 'LUFS')],
    ['Short-term max', formatLevel(readings.maxShortTermLufs, 'LUFS')],
    ['True peak', formatLevel(readings.truePeakDbtp, 'dBTP')],
    ['Sample peak', formatLevel(readings.samplePeakDbfs, 'dBFS')],
    ['Peak to loudness', formatLevel(readings.peakToLoudnessLu, 'LU')],
    ['RMS', `${formatLevel(readings.rmsDbfs, 'dBFS')} (re full-scale peak)`],
    ['Noise floor', `${formatLevel(readings.noiseFloorDbfs, 'dBFS')} (quietest half-second, unweighted)`],
    ['Clipped runs', String(readings.clippedRuns)],
  ];
  return rows.map(([name, value]) => `  ${name.padEnd(18)}${value}`);
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
