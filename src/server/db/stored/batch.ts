/** What was asked of many programmes, and what has come of it, as they are stored. */
import * as z from 'zod';
import { BATCH_ITEM_STATES, type BatchItem } from '@/core/batch/batch';
import type { Fields } from './fields';

export const batchItemsSchema = z.array(
  z.object({
    programmeId: z.string(),
    state: z.enum(BATCH_ITEM_STATES),
    text: z.string(),
    rowId: z.string().nullable(),
  } satisfies Fields<BatchItem>),
);
