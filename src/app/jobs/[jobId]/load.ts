import { notFound, redirect } from 'next/navigation';
import { isAppError } from '@/core/errors/app-error';
import type { Unknown } from '@/features/common/address-notice';
import { type JobView, type ProgrammeView, viewJob } from '@/server/jobs/jobs';
import { getServer } from '@/server/server';
import { listSpecs, specOrUsual } from '@/server/specs/specs';

export interface StageProps {
  params: Promise<{ jobId: string }>;
  searchParams: Promise<Query>;
}

/** Of the hand-over: all programmes together. */
export const ALL = 'all';

type Query = Record<string, string | string[] | undefined>;

/** The job, or the page that says it is not there. */
export function loadJob(jobId: string): JobView {
  try {
    return viewJob(getServer(), jobId);
  } catch (error) {
    if (isAppError(error, 'not-found')) notFound();
    throw error;
  }
}

/**
 * What a stage that works on one programme shows: the programme and the spec in the address, or the first of each.
 * A job without programmes leads back to taking in.
 */
export async function loadStage({ params, searchParams }: StageProps): Promise<{
  job: JobView;
  current: ProgrammeView;
  specId: string;
  query: Query;
  /** What the address asks for that is not there. */
  unknown: Unknown;
  shown: { title: string; specName: string };
}> {
  const job = loadJob((await params).jobId);
  const query = await searchParams;
  const { programme, spec } = query;
  const current = job.programmes.find(({ id }) => id === programme) ?? job.programmes[0];
  if (!current) redirect(`/jobs/${job.id}/take-in`);
  const { id: specId, name: specName } = specOrUsual(getServer(), typeof spec === 'string' ? spec : undefined);
  const unknown = {
    programme: typeof programme === 'string' && programme !== ALL && programme !== current.id,
    specId: unknownSpec(spec, specId),
  };
  return { job, current, specId, query, unknown, shown: { title: current.title, specName } };
}

/** The spec that an address asks for, where another is used in its place. */
export function unknownSpec(asked: Query[string], usedId: string): string | null {
  return typeof asked === 'string' && asked !== '' && asked !== usedId ? asked : null;
}

/** A number of seconds in an address; null where there is none. */
export function secondsIn(text: Query[string]): number | null {
  const seconds = typeof text === 'string' && text !== '' ? Number(text) : Number.NaN;
  return Number.isFinite(seconds) ? seconds : null;
}

/** Ids of specs in an address, those that there are. */
export function specIdsIn(text: Query[string]): string[] {
  const asked = typeof text === 'string' ? text.split(',') : [];
  return listSpecs(getServer()).flatMap(({ spec: { id } }) => (asked.includes(id) ? [id] : []));
}
