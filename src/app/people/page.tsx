import { headers } from 'next/headers';
import { PeopleScreen } from '@/features/people/people-screen';
import { listJobs } from '@/server/jobs/job-list';
import { viewPeople } from '@/server/people/people';
import { getServer } from '@/server/server';

export const dynamic = 'force-dynamic';

export default async function PeoplePage() {
  const server = getServer();
  const isDemanded = (await headers()).get('x-people') === '1';
  const jobs = listJobs(server).map(({ id, name }) => ({ id, name }));
  return <PeopleScreen view={viewPeople(server)} jobs={jobs} isDemanded={isDemanded} />;
}
