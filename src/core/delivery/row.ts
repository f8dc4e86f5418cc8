import * as z from 'zod';
import { readingOldNames } from '../schema/old-names';
import { MOST_REDUCTION_DB } from '../treatment/limited-solver';
import { deliveryFormatSchema } from './format';
import { rowMessages as messages } from './messages';

/** How a row's level is found: as its programme is set, or worked out for its own spec. */
export const levelModeSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('as-set') }),
  z.object({
    kind: z.literal('solved'),
    /** What a limiter may take; 0 for gain alone. */
    maxReductionDb: z.number().min(0).max(MOST_REDUCTION_DB),
    /** So far below the ceiling its peaks are aimed, after a file that came out above it. */
    marginDb: z.number().min(0).max(12).default(0),
  }),
]);
export type LevelMode = z.infer<typeof levelModeSchema>;

/** A row of a set: everything but the programme. */
export const setRowFields = z.object({
  specId: z.string().min(1).max(64),
  format: deliveryFormatSchema,
  levelMode: levelModeSchema,
  /** Null where it is kept here. */
  receiverId: z.string().min(1).max(64).nullable().default(null),
});
/** Names that earlier versions had for a row's fields. */
export const OLD_ROW_NAMES = { way: 'levelMode', keep: 'trim' } as const;

export const setRowSchema = readingOldNames(setRowFields, OLD_ROW_NAMES);
export type SetRow = z.infer<typeof setRowFields>;
export type SetRowInput = z.input<typeof setRowFields>;

/** In a few words, such as "as set", "gain only", "gain and limiter, up to 3 dB". */
export function describeLevelMode(levelMode: LevelMode): string {
  if (levelMode.kind === 'as-set') return messages.asSet;
  return levelMode.maxReductionDb === 0 ? messages.gainOnly : messages.gainAndLimiter(levelMode.maxReductionDb);
}
