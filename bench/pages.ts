import { createJob } from '@/server/jobs/jobs';
import { Server } from '@/server/server';
import { DataFolder } from '@/server/storage/data-folder';
import { takeIn } from '@/server/take-in/take-in';
import { addLike } from '../tests/fixtures/many-programmes';
import { stereo, tone } from '../tests/fixtures/signals';
import { wavOf } from '../tests/fixtures/wav';

/** A job of one programme, and one of many that are like it. */
export async function makeJobs(data: string, count: number): Promise<{ few: string; many: string }> {
  const server = new Server(new DataFolder(data));
  const bytes = wavOf(stereo(tone([{ seconds: 4, levelDbfs: -20 }], 48_000)));
  const jobs = [];
  for (const name of ['few', 'many']) {
    const jobId = createJob(server, name);
    const { programmeId } = await takeIn(server, { jobId, fileName: 'first.wav', body: [bytes] as never });
    jobs.push({ jobId, programmeId });
  }
  await server.runner.whenIdle();
  const [few, many] = jobs;
  if (!few || !many) throw new Error('two jobs were made');
  addLike(server, many.programmeId, count - 1);
  await server.close();
  return { few: few.jobId, many: many.jobId };
}
