import { createJob } from '@/server/jobs/jobs';
import { namesOf } from '@/server/jobs/programme-list';
import { Server } from '@/server/server';
import { DataFolder } from '@/server/storage/data-folder';
import { takeIn } from '@/server/take-in/take-in';
import { addLike } from '../tests/fixtures/many-programmes';
import { stereo, tone } from '../tests/fixtures/signals';
import { wavOf } from '../tests/fixtures/wav';

/** A job of one programme, one of some, and one of many that are like it; and which programmes are in the first two. */
export async function makeJobs(
  data: string,
  { some, many }: { some: number; many: number },
): Promise<{ few: string; some: string; many: string; ids: { few: string[]; some: string[] } }> {
  const server = new Server(new DataFolder(data));
  const bytes = wavOf(stereo(tone([{ seconds: 4, levelDbfs: -20 }], 48_000)));
  const jobs: { jobId: string; programmeId: string }[] = [];
  for (const name of ['few', 'some', 'many']) {
    const jobId = createJob(server, name);
    const { programmeId } = await takeIn(server, { jobId, fileName: 'first.wav', body: [bytes] as never });
    jobs.push({ jobId, programmeId });
  }
  await server.runner.whenIdle();
  const [one, other, all] = jobs;
  if (!one || !other || !all) throw new Error('three jobs were made');
  addLike(server, other.programmeId, some - 1);
  addLike(server, all.programmeId, many - 1);
  const idsOf = ({ jobId }: { jobId: string }) => namesOf(server, jobId).map(({ id }) => id);
  const ids = { few: idsOf(one), some: idsOf(other) };
  await server.close();
  return { few: one.jobId, some: other.jobId, many: all.jobId, ids };
}
