'use client';

import { createContext, type ReactNode, useContext } from 'react';

const JobId = createContext<string | undefined>(undefined);

/** The job that a page belongs to. */
export function JobProvider({ jobId, children }: { jobId: string; children: ReactNode }) {
  return <JobId value={jobId}>{children}</JobId>;
}

export function useJobId(): string {
  const jobId = useContext(JobId);
  if (jobId === undefined) throw new Error('useJobId needs a JobProvider');
  return jobId;
}
