import { redirect } from 'next/navigation';
import { stageAddress } from '@/features/common/address';
import { namesOf } from '@/server/jobs/programme-list';
import { getServer } from '@/server/server';
import { loadJob } from './load';

export default async function JobPage({ params }: { params: Promise<{ jobId: string }> }) {
  const { id } = loadJob((await params).jobId);
  redirect(stageAddress(id, namesOf(getServer(), id).length > 0 ? 'measure-and-set' : 'take-in'));
}
