import { music } from '@/cli/demo/synth';
import { orderBatch, viewBatch } from '@/server/batches/batches';
import { createJob } from '@/server/jobs/jobs';
import { Server } from '@/server/server';
import { DataFolder } from '@/server/storage/data-folder';
import { takeIn } from '@/server/take-in/take-in';
import { wavOf } from '../tests/fixtures/wav';

const RATE = 48_000;

/** How long many programmes take together to be solved, limited, written and verified, in seconds; and how many of them were. */
export async function deliverMany(
  data: string,
  { count, minutes }: { count: number; minutes: number },
): Promise<{ seconds: number; inside: number; limited: number }> {
  const server = new Server(new DataFolder(data));
  const jobId = createJob(server, 'many');
  const seconds = 60 * minutes;
  const song = music(seconds, RATE, [{ startSeconds: 0, level: 0.9, drums: 1 }], 4);
  const ids: string[] = [];
  for (let i = 0; i < count; i++) {
    // Each is another file, and softer than the target, with a hit each second that only a limiter makes room for.
    const gain = 0.5 - 0.001 * i;
    const bytes = wavOf(
      song.map((samples) => samples.map((x, n) => (n % RATE < 150 ? 0.9 * Math.sin(n / 9) : gain * x))),
    );
    const { programmeId } = await takeIn(server, { jobId, fileName: `song ${i + 1}.wav`, body: [bytes] as never });
    ids.push(programmeId);
  }
  await server.runner.whenIdle();
  const started = performance.now();
  const batchId = orderBatch(server, jobId, ids, { kind: 'deliver', specId: 'streaming-music', maxReductionDb: 12 });
  await server.runner.whenIdle();
  const elapsed = (performance.now() - started) / 1000;
  const { items } = viewBatch(server, batchId);
  const inside = items.filter(({ delivery }) => delivery?.inside === true).length;
  const limited = server.db.$client.prepare('select count(*) n from deliveries where reduction is not null').get() as {
    n: number;
  };
  await server.close();
  return { seconds: elapsed, inside, limited: limited.n };
}
