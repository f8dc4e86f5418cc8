'use server';

import { redirect } from 'next/navigation';
import * as z from 'zod';
import type { ActionResult } from '@/features/common/action-result';
import { answer } from '@/server/http/action';
import { deleteJob, restoreJob } from '@/server/jobs/delete-job';
import { archiveJob, createJob } from '@/server/jobs/jobs';
import { getServer } from '@/server/server';

const id = z.string().min(1).max(64);
const jobName = z.string().trim().min(1).max(120).catch('Untitled job');

/** Makes a job from a form with a `name`, and opens it. */
export async function startJob(form: FormData): Promise<void> {
  const jobId = createJob(getServer(), jobName.parse(form.get('name')));
  redirect(`/jobs/${jobId}/take-in`);
}

/** Puts a job away, or takes it up again. */
export async function setArchived(jobId: string, isArchived: boolean): Promise<ActionResult> {
  return answer(() => {
    archiveJob(getServer(), id.parse(jobId), z.boolean().parse(isArchived));
    return undefined;
  });
}

/** Deletes a job; it can be restored for a week. */
export async function removeJob(jobId: string): Promise<ActionResult> {
  return answer(() => {
    deleteJob(getServer(), id.parse(jobId));
    return undefined;
  });
}

/** Restores a job that was deleted. */
export async function bringJobBack(jobId: string): Promise<ActionResult> {
  return answer(() => {
    restoreJob(getServer(), id.parse(jobId));
    return undefined;
  });
}
