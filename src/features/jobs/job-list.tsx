'use client';

import { useQuery, useQueryClient } from '@tanstack/react-query';
import Link from 'next/link';
import { useState } from 'react';
import { formatDay } from '@/core/units/format';
import { ErrorNotice } from '@/features/common/error-notice';
import { StateMark } from '@/features/common/state-mark';
import { type Act, useAct } from '@/features/common/use-act';
import type { JobSummary } from '@/server/jobs/job-list';
import type { JobStanding } from '@/server/jobs/programme-list';
import { Button, ButtonLink } from '@/ui/button';
import { Card } from '@/ui/card';
import { Choice } from '@/ui/choice';
import { Field } from '@/ui/field';
import { removeJob, setArchived } from './actions';
import { DeletedJobs } from './deleted-jobs';
import { JOB_ORDERS, type JobOrder, jobState, nextStep, shownJobs } from './job-order';
import { jobListMessages as messages } from './messages';
import { refreshJobs, standingQuery } from './queries';
import { useJobs } from './use-jobs';

/** Every job with how far it is; those put away are out of sight until they are asked for. */
export function JobList({ jobs: first }: { jobs: readonly JobSummary[] }) {
  const jobs = useJobs(first);
  const [search, setSearch] = useState('');
  const [order, setOrder] = useState<JobOrder>('touched');
  const [withArchived, setWithArchived] = useState(false);
  const client = useQueryClient();
  const { act, error, clearError } = useAct(() => refreshJobs(client));
  const archived = jobs.filter(({ isArchived }) => isArchived).length;
  const shown = shownJobs(jobs, { search, order, withArchived });
  if (jobs.length === 0) return <DeletedJobs act={act} />;
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
        <Card flush className="shrink-0 overflow-hidden">
          <ul aria-label={messages.jobs}>
            {shown.map((job) => (
              <JobRow key={job.id} job={job} act={act} />
            ))}
          </ul>
        </Card>
      )}
      {error ? <ErrorNotice error={error} onClose={clearError} /> : null}
      <DeletedJobs act={act} />
    </>
  );
}

function JobRow({ job, act }: { job: JobSummary; act: Act }) {
  const { id, name, programmes, isArchived, touchedAtMs } = job;
  const { data: standing } = useQuery({ ...standingQuery(id), enabled: programmes > 0 });
  const next = nextStep(job, standing?.outside);
  return (
    <li className="flex items-center gap-2 border-b border-hair pr-3 last:border-0 hover:bg-stock-1">
      <Link
        href={`/jobs/${id}/${programmes > 0 ? 'measure-and-set' : 'take-in'}`}
        className="grid min-w-0 grow grid-cols-[1fr_auto] items-baseline gap-x-4 gap-y-0.5 px-4 py-2.5"
      >
        <span className="truncate font-bold">{name}</span>
        <span className="h-4 text-xs">{standing ? <Standing standing={standing} /> : null}</span>
        <span className="col-span-2 text-xs text-mute">
          {jobState(job)}
          {isArchived ? messages.isArchived : ''}
        </span>
      </Link>
      <span className="flex w-56 shrink-0 flex-col text-xs">
        {next ? (
          <span>
            <span className="text-mute">{messages.next}</span>{' '}
            <Link href={`/jobs/${id}/${next.stage}`} className="font-semibold text-slide-ink hover:underline">
              {next.text}
            </Link>
          </span>
        ) : (
          <span className="text-slide-ink">{job.written > 0 ? messages.allDone : ''}</span>
        )}
        <time dateTime={formatDay(touchedAtMs)} className="text-mute">
          {messages.touched(formatDay(touchedAtMs))}
        </time>
      </span>
      <ButtonLink kind="quiet" href={`/api/jobs/${id}/export`} download aria-label={messages.exportAsZip(name)}>
        {messages.export}
      </ButtonLink>
      <Button
        kind="quiet"
        onClick={() => void act(() => setArchived(id, !isArchived))}
        aria-label={`${isArchived ? messages.restore : messages.archive} ${name}`}
      >
        {isArchived ? messages.restore : messages.archive}
      </Button>
      {isArchived ? (
        <Button kind="quiet" onClick={() => void act(() => removeJob(id))} aria-label={`${messages.delete} ${name}`}>
          {messages.delete}
        </Button>
      ) : null}
    </li>
  );
}

/** How many programmes stand how against the job's spec, in the shapes that say so everywhere. */
function Standing({ standing: { specName, inside, outside, notAssessed, notMeasured } }: { standing: JobStanding }) {
  const parts = [
    { state: 'inside', count: inside, text: messages.inside(inside) },
    { state: 'over', count: outside, text: messages.outside(outside) },
    { state: 'not-assessed', count: notAssessed, text: messages.notAssessed(notAssessed) },
    { state: 'not-measured', count: notMeasured, text: messages.notMeasured(notMeasured) },
  ] as const;
  const shown = parts.filter(({ count }) => count > 0);
  return (
    <span title={messages.standing(specName, shown.map(({ text }) => text).join(', '))} className="flex gap-2.5">
      {shown.map(({ state, text }) => (
        <span key={state} className="whitespace-nowrap">
          <span aria-hidden>
            <StateMark state={state} />
          </span>{' '}
          {text}
        </span>
      ))}
    </span>
  );
}
