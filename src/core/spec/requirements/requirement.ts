import * as z from 'zod';
import { formatLevel, formatNumber, formatSampleRate, UNITS, type Unit } from '../../units/format';
import { type AssessedUnit, type Assessment, lowerName } from '../assessment';
import type { Facts } from '../facts';
import type { RequirementForm } from './form';

/** One thing that a spec asks for; an empty value where it does not ask for it. */
export interface SpecLine {
  name: string;
  value: string;
}

export const levelField = z.number().min(-120).max(24);
export const toleranceField = z.number().min(0).max(60);
/** Within what a value must lie; either end may be open. */
export const rangeField = z
  .object({ least: z.number().nonnegative().nullable(), most: z.number().nonnegative().nullable() })
  .refine(({ least, most }) => least === null || most === null || least <= most, 'The least is above the most');

/** Something that a spec can ask for: its fields in a spec, its words, and how it is held against what is known. */
export interface Requirement<Fields extends z.ZodRawShape> {
  key: string;
  fields: Fields;
  describe(asked: z.infer<z.ZodObject<Fields>>): SpecLine[];
  /** Another gain or another ceiling may meet it where it is missed. */
  isMovedByGain: boolean;
  /** It speaks of a file's format, which is chosen as it is handed over. */
  isOfFormat?: boolean;
  form: RequirementForm<z.infer<z.ZodObject<Fields>>>;
  /** Empty where it is not asked for. */
  assess(asked: z.infer<z.ZodObject<Fields>>, facts: Facts): Assessment[];
}

/** States a requirement, so that its fields and its functions fit. */
export function requirement<Fields extends z.ZodRawShape>(own: Requirement<Fields>): Requirement<Fields> {
  return own;
}

/**
 * Levels are judged to a thousandth of a dB: above the rounding of a 24-bit file, far below what any receiver reads.
 */
const RESOLUTION_DB = 0.001;

type Named = Pick<Assessment, 'key' | 'name' | 'required' | 'reading'>;

/** A value with its unit, for people. */
function formatMeasured(value: number, unit: AssessedUnit, digits = 1): string {
  switch (unit) {
    case 'Hz':
      return formatSampleRate(value);
    case 'channels':
      return String(value);
    case 'bit':
    case 'samples':
    case 'kbit/s':
      return `${value} ${unit}`;
    case 's':
      return `${formatNumber(value, digits)} s`;
    default:
      return formatLevel(value, unit, digits);
  }
}

function isLevelUnit(unit: AssessedUnit): unit is Unit {
  return (UNITS as readonly string[]).includes(unit);
}

/** Something that can't be told. */
export function notAssessed(named: Named, why: string): Assessment {
  return {
    ...named,
    measured: null,
    unit: null,
    found: 'not assessed',
    state: 'not-assessed',
    inside: false,
    deviation: 0,
    phrase: `${lowerName(named.name)} not assessed: ${why}`,
    why,
  };
}

/**
 * A number between limits, either of which may be open. Levels may stand a thousandth beyond.
 *
 * @param short what it is called in a sentence; its name unless stated
 */
export function assessNumber(
  named: Named & { short?: string },
  measured: number,
  unit: AssessedUnit,
  { least, most }: { least?: number | null | undefined; most?: number | null | undefined },
): Assessment {
  const { short = lowerName(named.name), ...own } = named;
  const slack = isLevelUnit(unit) ? RESOLUTION_DB : 0;
  const state =
    most != null && measured > most + slack ? 'over' : least != null && measured < least - slack ? 'under' : 'inside';
  const deviation = state === 'over' ? measured - (most ?? 0) : state === 'under' ? measured - (least ?? 0) : 0;
  const missed = `${formatDeviation(deviation, unit)} ${state}`;
  return {
    ...own,
    measured,
    unit,
    found: formatMeasured(measured, unit, 2),
    state,
    inside: state === 'inside',
    deviation,
    phrase: state === 'inside' ? `${short} ${formatMeasured(measured, unit)}` : `${short} ${missed}`,
    why: null,
  };
}

/** By how much a limit is missed, without a sign. It never reads as 0.0: less than a tenth is shown as fine as it is judged. */
export function formatDeviation(deviation: number, unit: AssessedUnit): string {
  const size = Math.abs(deviation);
  if (!isLevelUnit(unit)) return formatMeasured(size, unit);
  return `${formatNumber(size, size < 0.05 ? 3 : 1)} ${unit === 'LUFS' || unit === 'LU' ? 'LU' : 'dB'}`;
}

/** Something that is so or not. */
export function assessCheck(named: Named, found: string, isMet: boolean): Assessment {
  return {
    ...named,
    measured: null,
    unit: null,
    found,
    state: isMet ? 'inside' : 'missed',
    inside: isMet,
    deviation: 0,
    phrase: `${lowerName(named.name)} ${isMet ? found : `must be ${named.required}`}`,
    why: null,
  };
}

/** A number that must be one of some. */
export function assessChoice(
  named: Omit<Named, 'required'>,
  measured: number,
  unit: AssessedUnit,
  accepted: readonly number[],
): Assessment {
  const required = accepted.map((own) => formatMeasured(own, unit)).join(' or ');
  const inside = accepted.includes(measured);
  const [least, most] = [Math.min(...accepted), Math.max(...accepted)];
  const state = inside ? 'inside' : measured > most ? 'over' : measured < least ? 'under' : 'missed';
  const nearest = accepted.reduce((best, own) => (Math.abs(own - measured) < Math.abs(best - measured) ? own : best));
  return {
    ...named,
    required,
    measured,
    unit,
    inside,
    state,
    found: formatMeasured(measured, unit),
    deviation: inside ? 0 : measured - nearest,
    phrase: inside
      ? `${lowerName(named.name)} ${formatMeasured(measured, unit)}`
      : `${lowerName(named.name)} must be ${required}`,
    why: null,
  };
}

/** "0.5 to 1.0 s", "60.0 s or less". */
export function describeRange(
  { least, most }: { least: number | null; most: number | null },
  unit: 's' | 'LU',
): string {
  if (least !== null && most !== null) return `${formatNumber(least)} to ${formatNumber(most)} ${unit}`;
  return least !== null ? `${formatNumber(least)} ${unit} or more` : `${formatNumber(most ?? 0)} ${unit} or less`;
}
