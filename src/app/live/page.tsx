import { DataProvider } from '@/features/common/data/data-provider';
import { SpecsProvider } from '@/features/common/specs';
import { LinesScreen } from '@/features/live/lines-screen';
import { listJobs } from '@/server/jobs/job-list';
import { viewLiveLines } from '@/server/lines/views';
import { getServer } from '@/server/server';
import { listSpecs } from '@/server/specs/specs';

export const dynamic = 'force-dynamic';

export default function LinesPage() {
  const server = getServer();
  const jobs = listJobs(server).filter(({ isArchived }) => !isArchived);
  return (
    <DataProvider>
      <SpecsProvider specs={listSpecs(server).map(({ spec }) => spec)}>
        <LinesScreen lines={viewLiveLines(server)} jobs={jobs.map(({ id, name }) => ({ id, name }))} />
      </SpecsProvider>
    </DataProvider>
  );
}
