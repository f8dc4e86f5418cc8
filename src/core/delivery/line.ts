import * as z from 'zod';
import { MOST_REDUCTION_DB } from '../treatment/limited-solver';
import { deliveryFormatSchema } from './format';

/** How a row's levels are come by: as its programme is set, or worked out for its own spec. */
export const deliveryWaySchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('as-set') }),
  z.object({
    kind: z.literal('solved'),
    /** What a limiter may take; 0 for gain alone. */
    maxReductionDb: z.number().min(0).max(MOST_REDUCTION_DB),
    /** So far below the ceiling its peaks are aimed, after a file that came out above it. */
    marginDb: z.number().min(0).max(12).default(0),
  }),
]);
export type DeliveryWay = z.infer<typeof deliveryWaySchema>;

/** A row of a set: everything but the programme. */
export const setLineSchema = z.object({
  specId: z.string().min(1).max(64),
  format: deliveryFormatSchema,
  way: deliveryWaySchema,
  /** Null where it is kept here. */
  receiverId: z.string().min(1).max(64).nullable().default(null),
});
export type SetLine = z.infer<typeof setLineSchema>;
export type SetLineInput = z.input<typeof setLineSchema>;

/** In a few words, such as "as it is set", "gain only", "limiter up to 3 dB". */
export function describeWay(way: DeliveryWay): string {
  if (way.kind === 'as-set') return 'as it is set';
  return way.maxReductionDb === 0 ? 'gain only' : `limiter up to ${way.maxReductionDb} dB`;
}
