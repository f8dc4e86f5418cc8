import { redirect } from 'next/navigation';
import { loadJob } from './load';

export default async function JobPage({ params }: { params: Promise<{ jobId: string }> }) {
  const job = loadJob((await params).jobId);
  redirect(`/jobs/${job.id}/${job.programmes.length > 0 ? 'measure-and-set' : 'take-in'}`);
}
