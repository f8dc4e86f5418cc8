'use client';

import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect } from 'react';
import type { JobSummary } from '@/server/jobs/job-list';
import type { NumberedEvent } from '@/server/tasks/event-log';
import { deletedJobsQuery, jobsQuery, standingQuery } from './queries';

/** What is heard within so long is fetched together: a job that is measured says much. */
const GATHER_MS = 500;

/** Every job as it is now: what is done in any of them, here or elsewhere, is fetched again. */
export function useJobs(first: readonly JobSummary[]): readonly JobSummary[] {
  const client = useQueryClient();
  const { data } = useQuery({ ...jobsQuery, initialData: [...first] });
  useEffect(() => {
    const source = new EventSource('/api/events');
    let touched = new Set<string>();
    let gathering: ReturnType<typeof setTimeout> | undefined;
    const refresh = () => {
      gathering = undefined;
      const jobIds = touched;
      touched = new Set();
      void client.invalidateQueries({ queryKey: jobsQuery.queryKey });
      void client.invalidateQueries({ queryKey: deletedJobsQuery.queryKey });
      for (const jobId of jobIds) void client.invalidateQueries({ queryKey: standingQuery(jobId).queryKey });
    };
    source.addEventListener('missed', () => void client.invalidateQueries());
    source.onmessage = ({ data: text }) => {
      const event = JSON.parse(text) as NumberedEvent;
      if (event.touched.length === 0) return;
      for (const own of event.touched) if ('jobId' in own) touched.add(own.jobId);
      gathering ??= setTimeout(refresh, GATHER_MS);
    };
    return () => {
      source.close();
      clearTimeout(gathering);
    };
  }, [client]);
  return data;
}
