import type { ReactNode } from 'react';
import { DataProvider } from '@/features/common/data/data-provider';
import { LiveTasksProvider } from '@/features/common/data/live-tasks';
import { JobProvider } from '@/features/common/job';
import { SaveStatusProvider } from '@/features/common/save-status';
import { SpecsProvider } from '@/features/common/specs';
import { JobHeader } from '@/features/jobs/job-header';
import { AddFilesButton, DropAnywhere } from '@/features/take-in/drop-zone';
import { UploadList } from '@/features/take-in/upload-list';
import { UploadsProvider } from '@/features/take-in/uploads';
import { getServer } from '@/server/server';
import { listSpecs } from '@/server/specs/specs';
import { loadJob } from './load';

/** What stays while one goes from stage to stage: data, uploads, what is heard of tasks, the state of saving. */
export default async function JobLayout({
  children,
  params,
}: {
  children: ReactNode;
  params: Promise<{ jobId: string }>;
}) {
  const { id: jobId, name } = loadJob((await params).jobId);
  return (
    <JobProvider jobId={jobId}>
      <DataProvider>
        <SaveStatusProvider>
          <LiveTasksProvider>
            <SpecsProvider specs={listSpecs(getServer()).map(({ spec }) => spec)}>
              <UploadsProvider jobId={jobId}>
                <div className="flex h-full flex-col">
                  <JobHeader jobId={jobId} jobName={name}>
                    <AddFilesButton />
                  </JobHeader>
                  <UploadList />
                  <main className="min-h-0 grow overflow-y-auto">{children}</main>
                </div>
                <DropAnywhere />
              </UploadsProvider>
            </SpecsProvider>
          </LiveTasksProvider>
        </SaveStatusProvider>
      </DataProvider>
    </JobProvider>
  );
}
