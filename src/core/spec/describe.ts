import { KIND_FACTS } from '../delivery/file-kinds';
import { formatLevel, formatNumber, formatSampleRate } from '../units/format';
import type { Spec } from './spec';
import { peakName, peakUnit } from './verdict';

/** One thing that a spec asks for; an empty value where it does not ask for it. */
export interface SpecLine {
  name: string;
  value: string;
}

/** Everything that a spec can ask for, in order, in words: two specs stand line by line beside each other. */
export function describeSpec(spec: Spec): SpecLine[] {
  const { loudness, peak, bitRate } = spec;
  const unit = loudness?.measure === 'rms' ? 'dBFS' : 'LUFS';
  const list = <T>(values: readonly T[] | undefined, text: (value: T) => string) =>
    (values ?? []).map(text).join(' or ');
  return [
    { name: 'Loudness', value: loudness ? `${formatNumber(loudness.target)} ${unit}${tolerance(loudness)}` : '' },
    { name: 'Measured as', value: loudness ? (loudness.measure === 'rms' ? 'RMS' : 'integrated') : '' },
    { name: 'Max short-term', value: atMost(spec.maxShortTermLufs, 'LUFS') },
    { name: 'Max momentary', value: atMost(spec.maxMomentaryLufs, 'LUFS') },
    { name: 'Loudness range', value: within(spec.loudnessRange, 'LU') },
    {
      name: 'Ceiling',
      value: `${peakName(spec).toLowerCase()} ${formatLevel(peak.ceiling, peakUnit(spec))}${
        peak.allowanceDb > 0 ? `, up to ${formatNumber(peak.allowanceDb)} dB over accepted` : ''
      }`,
    },
    { name: 'Noise floor', value: atMost(spec.maxNoiseFloorDbfs, 'dBFS') },
    { name: 'Ahead of the first sound', value: within(spec.head, 's') },
    { name: 'After the last sound', value: within(spec.tail, 's') },
    { name: 'Channels', value: list(spec.channels, String) },
    { name: 'Layout', value: list(spec.layouts, (layout) => layout) },
    { name: 'Sample rate', value: list(spec.sampleRatesHz, formatSampleRate) },
    { name: 'Bit depth', value: list(spec.bitDepths, (bits) => (bits === 32 ? '32 (float)' : `${bits}`)) },
    { name: 'File', value: list(spec.files, (kind) => KIND_FACTS[kind].name) },
    {
      name: 'Bit rate',
      value: bitRate
        ? `${bitRate.modes.join(' or ')}${bitRate.leastKbps === null ? '' : `, ${bitRate.leastKbps} kbit/s or more`}`
        : '',
    },
    { name: 'Tags', value: list(spec.tags, (tag) => tag).replaceAll(' or ', ', ') },
    {
      name: 'A premaster',
      value: spec.isPremaster ? 'no limiter, no dither, rate and depth of the source, tail whole' : '',
    },
    { name: 'Not judged', value: spec.notJudged.join('; ') },
  ];
}

function tolerance({ toleranceBelow, toleranceAbove }: NonNullable<Spec['loudness']>): string {
  return toleranceBelow === toleranceAbove
    ? ` ±${formatNumber(toleranceAbove)} LU`
    : `, ${formatNumber(toleranceBelow)} LU below to ${formatNumber(toleranceAbove)} LU above`;
}

function atMost(level: number | undefined, unit: 'LUFS' | 'dBFS'): string {
  return level === undefined ? '' : `${formatLevel(level, unit)} or less`;
}

function within(range: Spec['tail'], unit: string): string {
  if (!range) return '';
  const { least, most } = range;
  if (least !== null && most !== null) return `${formatNumber(least)} to ${formatNumber(most)} ${unit}`;
  return least !== null ? `${formatNumber(least)} ${unit} or more` : `${formatNumber(most ?? 0)} ${unit} or less`;
}
