'use server';

import * as z from 'zod';
import { answer } from '@/server/http/action';
import { chooseSpec } from '@/server/jobs/jobs';
import { getServer } from '@/server/server';
import type { ActionResult } from './action-result';

const id = z.string().min(1).max(64);

/** Keeps the spec that a job's pages judge by. */
export async function chooseJobSpec(jobId: string, specId: string): Promise<ActionResult> {
  return answer(() => {
    chooseSpec(getServer(), id.parse(jobId), id.parse(specId));
    return undefined;
  });
}
