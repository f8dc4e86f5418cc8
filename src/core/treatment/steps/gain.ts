import * as z from 'zod';
import { formatGain } from '../../units/format';
import { defineStep } from '../step';

/** A gain is set in hundredths of a dB, between these. */
export const GAIN_LIMIT_DB = 60;
const GAIN_STEP_DB = 0.01;

export const gainDbSchema = z.number().min(-GAIN_LIMIT_DB).max(GAIN_LIMIT_DB);

/** A gain on the grid of hundredths, within the limits. `down` never gives more than was asked. */
export function roundGain(gainDb: number, mode: 'nearest' | 'down' = 'nearest'): number {
  // A value that is on the grid but for its binary rounding must not lose a whole step.
  const steps = mode === 'nearest' ? Math.round(gainDb / GAIN_STEP_DB) : Math.floor(gainDb / GAIN_STEP_DB + 1e-6);
  const rounded = Number((steps * GAIN_STEP_DB).toFixed(2));
  return Math.min(GAIN_LIMIT_DB, Math.max(-GAIN_LIMIT_DB, rounded));
}

export function invertGain(gainDb: number): number {
  return gainDb === 0 ? 0 : -gainDb;
}

/** Always there: a treatment without a gain is none. The command works it out unless `--gain` says it. */
export const gainStep = defineStep({
  title: 'Gain',
  schema: gainDbSchema,
  stage: 'levels',
  describe: (gainDb) => (gainDb === 0 ? null : `Gain ${formatGain(gainDb, 2)}`),
  flags: [],
});
