import type { Readings } from '../loudness/readings';
import { addGain, type Level } from '../units/decibel';
import { formatLevel, formatNumber, formatSampleRate, type Unit } from '../units/format';
import type { Spec } from './spec';

const VERDICT_STATES = ['inside', 'over', 'under', 'not-measured'] as const;
export type VerdictState = (typeof VERDICT_STATES)[number];

export interface VerdictItem {
  name: string;
  /** The measured value in the unit named; null where there was nothing to measure. */
  measured: Level;
  unit: Unit | 'Hz' | 'bit' | 'channels' | 'samples';
  /** What the spec asks, in words: "−23.0 ±0.5 LUFS". */
  required: string;
  inside: boolean;
  state: VerdictState;
  /** By how much the value is outside, positive over and negative under; 0 inside. */
  deviation: number;
}

/** Something about a file that is so or not, in words. */
export interface Check {
  name: string;
  found: string;
  required: string;
  inside: boolean;
}

export interface Verdict {
  specId: string;
  inside: boolean;
  items: VerdictItem[];
  /** Of a written file; absent where only its readings were judged. */
  checks?: Check[];
  /** What the spec asks besides, that no reading of samples can tell. */
  notJudged: readonly string[];
}

/** What of the written format a spec can ask for. */
export interface JudgedFormat {
  sampleRateHz: number;
  /** Null where the format keeps no samples of any depth. */
  bitDepth: number | null;
  channels: number;
}

/**
 * Levels are judged to a thousandth of a dB: above the rounding of a 24-bit file, far below what any receiver reads.
 */
const RESOLUTION_DB = 0.001;

/** Judges a reading, and the format it was written in, against a spec. `nonFiniteSamples` of a file count against it. */
export function judge(readings: Readings, format: JudgedFormat, spec: Spec, nonFiniteSamples = 0): Verdict {
  const items = [...levelItems(readings, spec), ...formatItems(format, spec)];
  if (nonFiniteSamples > 0) {
    items.push({
      name: 'Invalid samples',
      measured: nonFiniteSamples,
      unit: 'samples',
      required: 'none',
      inside: false,
      state: 'over',
      deviation: nonFiniteSamples,
    });
  }
  return { specId: spec.id, inside: items.every(({ inside }) => inside), items, notJudged: spec.notJudged };
}

function levelItems(readings: Readings, spec: Spec): VerdictItem[] {
  const items: VerdictItem[] = [];
  if (spec.loudness) {
    const { measure, target, toleranceBelow, toleranceAbove } = spec.loudness;
    const unit = measure === 'integrated' ? 'LUFS' : 'dBFS';
    items.push(
      levelItem(
        loudnessName(spec),
        specLoudness(readings, spec),
        unit,
        toleranceBelow === toleranceAbove
          ? `${formatNumber(target)} ±${formatNumber(toleranceAbove)} ${unit}`
          : `${formatNumber(target - toleranceBelow)} to ${formatNumber(target + toleranceAbove)} ${unit}`,
        { least: target - toleranceBelow, most: target + toleranceAbove },
      ),
    );
  }
  const loudest = [
    ['Short-term max', readings.maxShortTermLufs, spec.maxShortTermLufs],
    ['Momentary max', readings.maxMomentaryLufs, spec.maxMomentaryLufs],
  ] as const;
  for (const [name, level, most] of loudest) {
    if (most !== undefined) items.push(levelItem(name, level, 'LUFS', `≤ ${formatLevel(most, 'LUFS')}`, { most }));
  }
  const { ceiling, allowanceDb } = spec.peak;
  const unit = peakUnit(spec);
  const allowed = allowanceDb > 0 ? `, up to ${formatNumber(allowanceDb)} dB over accepted` : '';
  items.push(
    levelItem(peakName(spec), specPeak(readings, spec), unit, `≤ ${formatLevel(ceiling, unit)}${allowed}`, {
      most: ceiling + allowanceDb,
      silenceFits: true,
    }),
  );
  if (spec.maxNoiseFloorDbfs !== undefined) {
    const most = spec.maxNoiseFloorDbfs;
    items.push(
      levelItem('Noise floor', readings.noiseFloorDbfs, 'dBFS', `≤ ${formatLevel(most, 'dBFS')}`, {
        most,
        silenceFits: true,
      }),
    );
  }
  return items;
}

function levelItem(
  name: string,
  measured: Level,
  unit: Unit,
  required: string,
  limits: { least?: number; most: number; silenceFits?: boolean },
): VerdictItem {
  const item = { name, measured, unit, required };
  if (measured === null) {
    return limits.silenceFits
      ? { ...item, inside: true, state: 'inside', deviation: 0 }
      : { ...item, inside: false, state: 'not-measured', deviation: 0 };
  }
  if (measured > limits.most + RESOLUTION_DB) {
    return { ...item, inside: false, state: 'over', deviation: measured - limits.most };
  }
  if (limits.least !== undefined && measured < limits.least - RESOLUTION_DB) {
    return { ...item, inside: false, state: 'under', deviation: measured - limits.least };
  }
  return { ...item, inside: true, state: 'inside', deviation: 0 };
}

function formatItems(format: JudgedFormat, spec: Spec): VerdictItem[] {
  return [
    formatItem('Channels', format.channels, 'channels', spec.channels, String),
    formatItem('Sample rate', format.sampleRateHz, 'Hz', spec.sampleRatesHz, formatSampleRate),
    formatItem('Bit depth', format.bitDepth, 'bit', spec.bitDepths, (bits) => `${bits} bit`),
  ].flat();
}

function formatItem(
  name: string,
  measured: number | null,
  unit: 'channels' | 'Hz' | 'bit',
  accepted: readonly number[] | undefined,
  print: (value: number) => string,
): VerdictItem[] {
  if (!accepted) return [];
  const required = accepted.map(print).join(' or ');
  if (measured === null) {
    return [{ name, measured, unit, required, inside: false, state: 'not-measured', deviation: 0 }];
  }
  const inside = accepted.includes(measured);
  const isOver = measured > Math.max(...accepted);
  const nearest = isOver ? Math.max(...accepted) : Math.min(...accepted);
  return [
    {
      name,
      measured,
      unit,
      required,
      inside,
      state: inside ? 'inside' : isOver ? 'over' : 'under',
      deviation: inside ? 0 : measured - nearest,
    },
  ];
}

function loudnessName(spec: Spec): string {
  return spec.loudness?.measure === 'rms' ? 'RMS' : 'Integrated';
}

export function peakName(spec: Spec): string {
  return spec.peak.measure === 'true' ? 'True peak' : 'Sample peak';
}

export function peakUnit(spec: Spec): 'dBTP' | 'dBFS' {
  return spec.peak.measure === 'true' ? 'dBTP' : 'dBFS';
}

/** The value that the spec's loudness target speaks of. */
export function specLoudness(readings: Readings, spec: Spec): Level {
  return spec.loudness?.measure === 'rms' ? readings.rmsDbfs : readings.integratedLufs;
}

/** The value that the spec's ceiling speaks of. */
export function specPeak(readings: Readings, spec: Spec, gainDb = 0): Level {
  return addGain(spec.peak.measure === 'true' ? readings.truePeakDbtp : readings.samplePeakDbfs, gainDb);
}
