import type { Readings } from '../loudness/readings';
import type { StepName } from '../treatment/treatment';
import { formatTime } from '../units/format';
import type { Evidence } from './evidence';
import { MOST_PLACES, type Place } from './place';

/** Something that a person should know about a file before working on it. */
export interface Finding {
  code: string;
  /** A breach spoils what is delivered; advice is worth knowing. */
  severity: 'breach' | 'advice';
  /** What is there, by how much, and what to do. */
  message: string;
  /** Where; empty where it is in the whole file. The first hundred. */
  places: Place[];
}

/** All that a finding may look at. */
interface Looked extends Evidence {
  readings: Readings;
  /** How many programmes of its job have which sample rate, this one included; null where there is no job. */
  jobRates: ReadonlyMap<number, number> | null;
}

/** One kind of finding: what it looks for, its words, and when it is there. */
export interface FindingKind {
  code: string;
  /** When it is there, for the table in the docs. */
  criterion: string;
  /** What one of its places is called in lists and on the trace; absent where its places are the whole file. */
  placeName?: string;
  /** The step of a treatment that mends it; absent where none does. */
  step?: StepName;
  /** What the top of a page says of it, in two or three words; absent where it is said further down only. */
  short?(readings: Readings): string;
  look(looked: Looked): Omit<Finding, 'code'> | null;
}

/** States a kind of finding. */
export function defineFinding(kind: FindingKind): FindingKind {
  return kind;
}

export function breach(message: string, places: Place[] = []): Omit<Finding, 'code'> {
  return { severity: 'breach', message, places: places.slice(0, MOST_PLACES) };
}

export function advice(message: string, places: Place[] = []): Omit<Finding, 'code'> {
  return { severity: 'advice', message, places: places.slice(0, MOST_PLACES) };
}

/** A place in a file, to the millisecond. */
export function timeOf(frame: number, { facts }: Evidence): string {
  return formatTime(frame / facts.sampleRateHz, { milliseconds: true });
}

export function count(number: number, one: string, many: string): string {
  return `${number} ${number === 1 ? one : many}`;
}
