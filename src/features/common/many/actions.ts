'use server';

import * as z from 'zod';
import { type BatchWishInput, batchWish } from '@/core/batch/batch';
import type { ActionResult } from '@/features/common/action-result';
import { orderBatch } from '@/server/batches/batches';
import { answer } from '@/server/http/action';
import { getServer } from '@/server/server';

const id = z.string().min(1).max(64);

/** Asks something of many programmes of a job; answers with the id of the batch. */
export async function askMany(
  jobId: string,
  programmeIds: readonly string[],
  wish: BatchWishInput,
): Promise<ActionResult<string>> {
  const ids = z.array(id).min(1).max(2000);
  return answer(() => orderBatch(getServer(), id.parse(jobId), ids.parse(programmeIds), batchWish.parse(wish)));
}
