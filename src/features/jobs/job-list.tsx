'use client';

import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { formatDay } from '@/core/units/format';
import type { JobSummary } from '@/server/jobs/jobs';
import { Button, ButtonLink } from '@/ui/button';
import { Card } from '@/ui/card';
import { Choice } from '@/ui/choice';
import { Field } from '@/ui/field';
import { setArchived } from './actions';
import { JOB_ORDERS, type JobOrder, jobState, shownJobs } from './job-order';
import { jobListMessages as messages } from './messages';

/** Every job with how far it is; those put away are out of sight until they are asked for. */
export function JobList({ jobs }: { jobs: readonly JobSummary[] }) {
  const [search, setSearch] = useState('');
  const [order, setOrder] = useState<JobOrder>('newest');
  const [withArchived, setWithArchived] = useState(false);
  const archived = jobs.filter(({ isArchived }) => isArchived).length;
  const shown = shownJobs(jobs, { search, order, withArchived });
  return (
    <>
      <div className="flex items-end gap-3">
        <Field
          label={messages.search}
          type="search"
          value={search}
          onChange={(event) => setSearch(event.target.value)}
        />
        <Choice
          label={messages.order}
          value={order}
          options={JOB_ORDERS}
          onChange={(value) => setOrder(value as JobOrder)}
        />
        {archived > 0 ? (
          <label className="flex cursor-pointer items-center gap-2 py-1.5 text-sm whitespace-nowrap">
            <input type="checkbox" checked={withArchived} onChange={(event) => setWithArchived(event.target.checked)} />
            {messages.archived(archived)}
          </label>
        ) : null}
      </div>
      {shown.length === 0 ? (
        <p className="text-sm text-mute">{search ? messages.noJobMatches(search) : messages.allJobsAreArchived}</p>
      ) : (
        <Card flush className="shrink-0">
          <ul aria-label={messages.jobs}>
            {shown.map((job) => (
              <JobRow key={job.id} job={job} />
            ))}
          </ul>
        </Card>
      )}
    </>
  );
}

function JobRow({ job }: { job: JobSummary }) {
  const router = useRouter();
  const { id, name, programmes, isArchived, createdAtMs } = job;
  const archive = async () => {
    await setArchived(id, !isArchived);
    router.refresh();
  };
  return (
    <li className="flex items-center gap-2 border-b border-hair pr-3 last:border-0 hover:bg-stock-1">
      <Link
        href={`/jobs/${id}/${programmes > 0 ? 'measure-and-set' : 'take-in'}`}
        className="grid min-w-0 grow grid-cols-[1fr_auto] items-baseline gap-x-4 px-4 py-2.5"
      >
        <span className="truncate font-bold">{name}</span>
        <time dateTime={formatDay(createdAtMs)} className="font-mono text-xs text-mute">
          {formatDay(createdAtMs)}
        </time>
        <span className="text-xs text-mute">
          {jobState(job)}
          {isArchived ? messages.isArchived : ''}
        </span>
      </Link>
      <ButtonLink kind="quiet" href={`/api/jobs/${id}/export`} download aria-label={messages.exportAsZip(name)}>
        {messages.export}
      </ButtonLink>
      <Button
        kind="quiet"
        onClick={() => void archive()}
        aria-label={`${isArchived ? messages.restore : messages.archive} ${name}`}
      >
        {isArchived ? messages.restore : messages.archive}
      </Button>
    </li>
  );
}
