import * as z from 'zod';
import { GAIN_LIMIT_DB } from './gain';

export const gainDbSchema = z.number().min(-GAIN_LIMIT_DB).max(GAIN_LIMIT_DB);

/** The ordered steps that a programme goes through. */
export const treatmentSchema = z.object({ gainDb: gainDbSchema });
export type Treatment = z.infer<typeof treatmentSchema>;
