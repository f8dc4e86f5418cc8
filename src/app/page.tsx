import { TopBar } from '@/features/common/top-bar';
import { startJob } from '@/features/jobs/actions';
import { ImportJob } from '@/features/jobs/import-job';
import { JobList } from '@/features/jobs/job-list';
import { DropNewJob } from '@/features/take-in/drop-new-job';
import { listJobs } from '@/server/jobs/jobs';
import { getServer } from '@/server/server';
import { Button } from '@/ui/button';
import { Field } from '@/ui/field';

export const dynamic = 'force-dynamic';

export default function JobsPage() {
  const jobs = listJobs(getServer());
  return (
    <div className="flex h-full flex-col">
      <TopBar />
      <DropNewJob startJob={startJob} />
      <main className="mx-auto flex w-full max-w-4xl grow flex-col gap-4 overflow-y-auto p-6">
        <header className="flex items-center justify-between gap-4">
          <h1 className="text-xl font-bold">Jobs</h1>
          <ImportJob />
        </header>
        {jobs.length === 0 ? (
          <p className="text-mute">
            A job is one piece of work for one client. Name the first one, or drop its files here; then measure them,
            and hand over what was asked for.
          </p>
        ) : (
          <JobList jobs={jobs} />
        )}
        <form action={startJob} className="flex items-end gap-3">
          <Field label="New job" name="name" required maxLength={120} placeholder="Client · what it is" />
          <Button kind="primary" type="submit">
            Start the job
          </Button>
        </form>
      </main>
    </div>
  );
}
