/** What was asked of many programmes, and what has come of it, as they are stored. */
import * as z from 'zod';
import { BATCH_ITEM_STATES, type BatchFile, type BatchItem } from '@/core/batch/batch';
import type { Fields } from './fields';

export const batchItemsSchema = z.array(
  z.object({
    programmeId: z.string(),
    state: z.enum(BATCH_ITEM_STATES),
    text: z.string(),
    rowId: z.string().nullable(),
    file: z
      .object({ fileName: z.string(), sizeBytes: z.number(), sha256: z.string() } satisfies Fields<BatchFile>)
      .nullable()
      .default(null),
  } satisfies Fields<BatchItem>),
);
