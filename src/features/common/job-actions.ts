'use server';

import * as z from 'zod';
import { answer } from '@/server/http/action';
import { chooseSpec } from '@/server/jobs/jobs';
import { namesOf, type ProgrammeName } from '@/server/jobs/programme-list';
import { getServer } from '@/server/server';
import type { ActionResult } from './action-result';

const id = z.string().min(1).max(64);

/** What the programmes of a job are called. */
export async function namesOfJob(jobId: string): Promise<ActionResult<ProgrammeName[]>> {
  return answer(() => namesOf(getServer(), id.parse(jobId)));
}

/** Keeps the spec that a job's pages judge by. */
export async function chooseJobSpec(jobId: string, specId: string): Promise<ActionResult> {
  return answer(() => {
    chooseSpec(getServer(), id.parse(jobId), id.parse(specId));
    return undefined;
  });
}
