import type { Readings } from '@/core/loudness/readings';
import type { Spec } from '@/core/spec/spec';
import { specLoudness, type Verdict, type VerdictItem } from '@/core/spec/verdict';
import { formatLevel, formatNumber } from '@/core/units/format';
import type { MarkState } from './state-mark';

export interface Phrase {
  state: MarkState;
  text: string;
}

/** A verdict as short sentences: where the loudness lands, and every limit that is missed. */
export function verdictPhrases(verdict: Verdict, readings: Readings, spec: Spec): Phrase[] {
  const [first, ...others] = verdict.items;
  if (!first) return [];
  const checks = (verdict.checks ?? []).filter(({ inside }) => !inside);
  const misses: Phrase[] = [
    ...others.filter(({ inside }) => !inside).map(missPhrase),
    ...checks.map(({ name, required }) => ({ state: 'over' as const, text: `${lower(name)} must be ${required}` })),
  ];
  if (!spec.loudness) {
    const fits: Phrase = { state: 'inside', text: `${lower(first.name)} ${itemValue(first)}` };
    return [first.inside ? fits : missPhrase(first), ...misses];
  }
  const unit = spec.loudness.measure === 'rms' ? 'dBFS RMS' : 'LUFS';
  const loudness = specLoudness(readings, spec);
  if (loudness === null) return [{ state: 'not-measured', text: 'no loudness to measure' }, ...misses];
  const lands: Phrase = { state: first.state, text: `lands on ${formatNumber(loudness)} ${unit}` };
  const offTarget = loudness - spec.loudness.target;
  if (!first.inside) lands.text = `${formatNumber(Math.abs(offTarget))} LU ${offTarget > 0 ? 'over' : 'under'}`;
  return [lands, ...misses];
}

/** The one mark for a whole verdict: the first thing that is missed. */
export function verdictState(verdict: Verdict): MarkState {
  const missed = verdict.items.find(({ inside }) => !inside)?.state;
  return missed ?? (verdict.checks?.some(({ inside }) => !inside) ? 'over' : 'inside');
}

function missPhrase(item: VerdictItem): Phrase {
  switch (item.unit) {
    case 'Hz':
    case 'bit':
    case 'channels':
      return { state: item.state, text: `${lower(item.name)} must be ${item.required}` };
    case 'samples':
      return { state: item.state, text: `${item.measured} invalid samples` };
    default: {
      const unit = item.unit === 'LUFS' || item.unit === 'LU' ? 'LU' : 'dB';
      const name = item.name === 'True peak' || item.name === 'Sample peak' ? 'peak' : lower(item.name);
      if (item.measured === null) return { state: item.state, text: `${name} not measured` };
      return { state: item.state, text: `${name} ${excess(item.deviation)} ${unit} ${item.state}` };
    }
  }
}

/** A miss never reads as 0.0: what is smaller than a tenth is shown as fine as it is judged. */
function excess(deviation: number): string {
  const size = Math.abs(deviation);
  return formatNumber(size, size < 0.05 ? 3 : 1);
}

function itemValue(item: VerdictItem): string {
  switch (item.unit) {
    case 'Hz':
    case 'bit':
    case 'channels':
    case 'samples':
      return `${item.measured} ${item.unit}`;
    default:
      return formatLevel(item.measured, item.unit);
  }
}

/** A name as it stands within a sentence; one that is all capitals stays. */
function lower(name: string): string {
  if (/^[A-Z]{2}/.test(name)) return name;
  return name.charAt(0).toLowerCase() + name.slice(1);
}
