'use server';

import * as z from 'zod';
import type { ActionResult } from '@/features/common/action-result';
import { createDelivery } from '@/server/deliveries/deliveries';
import { answer } from '@/server/http/action';
import { getServer } from '@/server/server';

const input = z.object({ programmeId: z.string().min(1).max(64), specId: z.string().min(1).max(64) });

/** Queues a delivery of the programme's newest treatment for a spec; answers with its id. */
export async function writeDelivery(programmeId: string, specId: string): Promise<ActionResult<string>> {
  return answer(() => {
    const parsed = input.parse({ programmeId, specId });
    return createDelivery(getServer(), parsed.programmeId, parsed.specId);
  });
}
