import { notFound } from 'next/navigation';
import { isAppError } from '@/core/errors/app-error';
import { DataProvider } from '@/features/common/data/data-provider';
import { SpecsProvider } from '@/features/common/specs';
import { LineScreen } from '@/features/live/line-screen';
import { listJobs } from '@/server/jobs/job-list';
import { type LiveLineView, viewLiveLine } from '@/server/lines/views';
import { getServer } from '@/server/server';
import { listSpecs } from '@/server/specs/specs';

export const dynamic = 'force-dynamic';

export default async function LinePage({ params }: { params: Promise<{ lineId: string }> }) {
  const { lineId } = await params;
  const server = getServer();
  const line = lineOrNotFound(lineId);
  const jobs = listJobs(server).filter(({ id, isArchived }) => !isArchived || id === line.jobId);
  return (
    <DataProvider>
      <SpecsProvider specs={listSpecs(server).map(({ spec }) => spec)}>
        <LineScreen line={line} jobs={jobs.map(({ id, name }) => ({ id, name }))} />
      </SpecsProvider>
    </DataProvider>
  );
}

function lineOrNotFound(lineId: string): LiveLineView {
  try {
    return viewLiveLine(getServer(), lineId);
  } catch (error) {
    if (isAppError(error, 'not-found')) notFound();
    throw error;
  }
}
