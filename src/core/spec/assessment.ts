import type { Readings } from '../loudness/readings';
import type { Level } from '../units/decibel';
import type { Unit } from '../units/format';

/** `missed` is said of what is no number that could be over or under. */
export const ASSESSMENT_STATES = ['inside', 'over', 'under', 'missed', 'not-assessed'] as const;
export type AssessmentState = (typeof ASSESSMENT_STATES)[number];

export type AssessedUnit = Unit | 's' | 'Hz' | 'bit' | 'channels' | 'samples' | 'kbit/s';

/** One thing that a spec asks for, held against what is known. */
export interface Assessment {
  /** Of the requirement that it comes from; empty in verdicts of older versions. */
  key: string;
  name: string;
  /** In the unit named; null where it is no number or there was nothing to measure. */
  measured: Level;
  unit: AssessedUnit | null;
  /** The reading that it speaks of, if it is one; absent in verdicts of older versions. */
  reading?: keyof Readings | undefined;
  /** What was found, in words. */
  found: string;
  /** What the spec asks, in words: "−23.0 ±0.5 LUFS". */
  required: string;
  state: AssessmentState;
  inside: boolean;
  /** By how much it is missed, positive over and negative under; 0 where it is not. */
  deviation: number;
  /** A short sentence for people: "peak 2.4 dB over", "channels must be 2", "on target at −23.0 LUFS". */
  phrase: string;
  /** Why it could not be assessed; null where it was. */
  why: string | null;
}

export interface Verdict {
  specId: string;
  /** Nothing is missed, and nothing that the spec asks for was left unassessed. */
  inside: boolean;
  items: Assessment[];
  /** What the spec asks besides, for a person to check: no file tells it. */
  notJudged: readonly string[];
}

export function missedOf({ items }: Verdict): Assessment[] {
  return items.filter(({ inside, state }) => !inside && state !== 'not-assessed');
}

function unassessedOf({ items }: Verdict): Assessment[] {
  return items.filter(({ state }) => state === 'not-assessed');
}

/** What is said of the whole: "inside", "outside", or "levels inside; not assessed: file, tags". */
export function verdictText(verdict: Verdict): string {
  if (verdict.inside) return 'inside';
  if (missedOf(verdict).length > 0) return 'outside';
  const names = unassessedOf(verdict).map(({ name }) => lowerName(name));
  return `levels inside; not assessed: ${names.join(', ')}`;
}

/** The one state of a whole verdict: of the first thing that is missed, or that something was not assessed. */
export function verdictState(verdict: Verdict): AssessmentState {
  return missedOf(verdict)[0]?.state ?? (verdict.inside ? 'inside' : 'not-assessed');
}

/** What is said of a part of a verdict. */
export interface Phrase {
  state: AssessmentState;
  text: string;
  /** Of the requirement that it speaks of; absent where it speaks of several. */
  key?: string;
}

/** A verdict as short sentences: where it lands, every limit that is missed, and what could not be assessed. */
export function verdictPhrases(verdict: Verdict): Phrase[] {
  const lead = leadOf(verdict);
  const misses = missedOf(verdict).filter((item) => item !== lead);
  const unassessed = unassessedOf(verdict).filter((item) => item !== lead);
  const names = unassessed.map(({ name }) => lowerName(name)).join(', ');
  return [
    ...(lead ? [phraseOf(lead)] : []),
    ...misses.map(phraseOf),
    ...(names === '' ? [] : [{ state: 'not-assessed' as const, text: `not assessed: ${names}` }]),
  ];
}

/** What is said of a programme first: its loudness, or its peak where a spec asks for none. */
function leadOf({ items }: Verdict): Assessment | undefined {
  return items.find(({ key }) => key === 'loudness') ?? items.find(({ key }) => key === 'peak') ?? items[0];
}

function phraseOf({ state, phrase, key }: Assessment): Phrase {
  return { state, text: phrase, key };
}

/** A name as it stands within a sentence; one that begins with capitals stays. */
export function lowerName(name: string): string {
  return /^[A-Z]{2}/.test(name) ? name : name.charAt(0).toLowerCase() + name.slice(1);
}
