import type { Level } from './decibel';

/** U+2212: the minus of a printed number, as wide as a plus and never broken over a line. */
const MINUS = '−';

export const UNITS = ['LUFS', 'LU', 'dBTP', 'dBFS', 'dB'] as const;
export type Unit = (typeof UNITS)[number];

/** A number for people: true minus, fixed decimals, no "−0.0". */
export function formatNumber(value: number, digits = 1, options: { plus?: boolean } = {}): string {
  const text = Math.abs(value).toFixed(digits);
  const isZero = Number(text) === 0;
  if (isZero) return text;
  return value < 0 ? MINUS + text : (options.plus ? '+' : '') + text;
}

/** A level with its unit: "−23.0 LUFS"; silence has words of its own. */
export function formatLevel(level: Level, unit: Unit, digits = 1): string {
  return level === null ? 'not measured' : `${formatNumber(level, digits)} ${unit}`;
}

/** A change with its sign and unit: "+4.6 dB". */
export function formatGain(gainDb: number, digits = 1): string {
  return `${formatNumber(gainDb, digits, { plus: true })} dB`;
}

/** A position or length as m:ss or h:mm:ss, with milliseconds when asked. */
export function formatTime(seconds: number, options: { milliseconds?: boolean } = {}): string {
  const totalMs = options.milliseconds ? Math.round(seconds * 1000) : Math.floor(seconds) * 1000;
  const ms = totalMs % 1000;
  const s = Math.floor(totalMs / 1000) % 60;
  const m = Math.floor(totalMs / 60_000) % 60;
  const h = Math.floor(totalMs / 3_600_000);
  const head = h > 0 ? `${h}:${String(m).padStart(2, '0')}` : String(m);
  const tail = options.milliseconds ? `.${String(ms).padStart(3, '0')}` : '';
  return `${head}:${String(s).padStart(2, '0')}${tail}`;
}

/** A day of the calendar, as "2026-11-29"; a time that is none has words of its own, so that one bad row never breaks a list. */
export function formatDay(timeMs: number): string {
  const date = new Date(timeMs);
  return Number.isNaN(date.getTime()) ? 'unknown' : date.toISOString().slice(0, 10);
}

/** A moment to the minute, in Coordinated Universal Time: "2026-11-29 13:05 UTC". */
export function formatMoment(timeMs: number): string {
  const date = new Date(timeMs);
  return Number.isNaN(date.getTime()) ? 'unknown' : `${date.toISOString().slice(0, 16).replace('T', ' ')} UTC`;
}

/** A sample rate as the trade says it: "48 kHz", "44.1 kHz". */
export function formatSampleRate(sampleRateHz: number): string {
  return `${Number((sampleRateHz / 1000).toFixed(3))} kHz`;
}

/** A size in decimal units, as receivers and shops state their limits. */
export function formatBytes(bytes: number): string {
  if (bytes < 1000) return `${bytes} B`;
  for (const [unit, size] of [
    ['kB', 1e3],
    ['MB', 1e6],
    ['GB', 1e9],
  ] as const) {
    const value = bytes / size;
    if (value < 999.5 || unit === 'GB') return `${value.toFixed(value < 10 ? 1 : 0)} ${unit}`;
  }
  return `${bytes} B`;
}
