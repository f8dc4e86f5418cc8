import { DataProvider } from '@/features/common/data/data-provider';
import { TopBar } from '@/features/common/top-bar';
import { startJob } from '@/features/jobs/actions';
import { ImportJob } from '@/features/jobs/import-job';
import { JobList } from '@/features/jobs/job-list';
import { DropNewJob } from '@/features/take-in/drop-new-job';
import { listJobs } from '@/server/jobs/job-list';
import { getServer } from '@/server/server';
import { Button } from '@/ui/button';
import { Field } from '@/ui/field';
import { pageMessages as messages } from './messages';

export const dynamic = 'force-dynamic';

export default function JobsPage() {
  const jobs = listJobs(getServer());
  return (
    <div className="flex h-full flex-col">
      <TopBar />
      <main className="mx-auto flex w-full max-w-4xl grow flex-col gap-4 overflow-y-auto p-6">
        <header className="flex items-center justify-between gap-4">
          <h1 className="text-xl font-bold">{messages.jobs}</h1>
          <ImportJob />
        </header>
        <DropNewJob startJob={startJob} isFirst={jobs.length === 0} />
        {jobs.length === 0 ? <p className="text-sm text-mute">{messages.whatAJobIs}</p> : null}
        <DataProvider>
          <JobList jobs={jobs} />
        </DataProvider>
        <form action={startJob} className="flex items-end gap-3">
          <Field label={messages.newJob} name="name" required maxLength={120} placeholder={messages.jobExample} />
          <Button kind={jobs.length === 0 ? 'plain' : 'primary'} type="submit">
            {messages.startTheJob}
          </Button>
        </form>
      </main>
    </div>
  );
}
