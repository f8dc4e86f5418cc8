import { notFound, redirect } from 'next/navigation';
import type { SearchParams } from 'nuqs/server';
import { isAppError } from '@/core/errors/app-error';
import { ALL_PROGRAMMES, loadAddress } from '@/features/common/address';
import type { Unknown } from '@/features/common/address-notice';
import { jobOf, specInUse } from '@/server/jobs/jobs';
import { namesOf, type ProgrammeName } from '@/server/jobs/programme-list';
import { getServer } from '@/server/server';

export interface StageProps {
  params: Promise<{ jobId: string }>;
  searchParams: Promise<SearchParams>;
}

/** The job, or the page that says it is not there. */
export function loadJob(jobId: string): ReturnType<typeof jobOf> {
  try {
    return jobOf(getServer(), jobId);
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
  jobId: string;
  /** The event before everything here was read. */
  asOf: number;
  names: ProgrammeName[];
  currentId: string;
  /** The address asks for all programmes together. */
  isAll: boolean;
  specId: string;
  /** What the address asks for that is not there. */
  unknown: Unknown;
  shown: { title: string; specName: string };
}> {
  const { id: jobId } = loadJob((await params).jobId);
  const asOf = getServer().events.lastId;
  const names = namesOf(getServer(), jobId);
  const { programme, spec } = await loadAddress(searchParams);
  const current = names.find(({ id }) => id === programme) ?? names[0];
  if (!current) redirect(`/jobs/${jobId}/take-in`);
  const used = specInUse(getServer(), jobId, spec);
  const isAll = programme === ALL_PROGRAMMES;
  const unknown = {
    programme: programme !== null && !isAll && programme !== current.id,
    specId: unknownSpec(spec, used.id),
  };
  const shown = { title: current.title, specName: used.name };
  return { jobId, asOf, names, currentId: current.id, isAll, specId: used.id, unknown, shown };
}

/** The spec that an address asks for, where another is used in its place. */
export function unknownSpec(asked: string | null, usedId: string): string | null {
  return asked !== null && asked !== '' && asked !== usedId ? asked : null;
}
