/** More sources than SQLite takes values in one statement (32,766): the app starts, and lists what there is. */
import { eq } from 'drizzle-orm';
import { tasks } from '@/server/db/schema';
import { listJobs } from '@/server/jobs/job-list';
import { createJob, viewJob } from '@/server/jobs/jobs';
import { viewProgramme } from '@/server/jobs/programme-view';
import { Server } from '@/server/server';
import { DataFolder } from '@/server/storage/data-folder';
import { TestServer } from '../fixtures/server';
import { tone } from '../fixtures/signals';
import { wavOf } from '../fixtures/wav';

const SOURCES = 50_000;
const IN_JOB = 2000;
const UNREAD = 35_000;

test('with 50,000 sources it starts, knows what is not measured yet, and shows a job of 2,000', async () => {
  const host = new TestServer();
  const { programmeId } = await host.measured(wavOf([tone([{ seconds: 1, levelDbfs: -20 }], 48_000)]), 'first.wav');
  const otherId = createJob(host.server, 'Archive');
  const client = host.server.db.$client;
  /** Rows like the first of a table, but for some columns. */
  const multiply = (table: string, count: number, own: Readonly<Record<string, string>>) => {
    const columns = client
      .prepare(`SELECT name FROM pragma_table_info('${table}')`)
      .all()
      .map((row) => (row as { name: string }).name);
    client.exec(`WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < ${count})
      INSERT INTO ${table} (${columns.map((name) => `"${name}"`).join()})
      SELECT ${columns.map((name) => own[name] ?? `first."${name}"`).join()} FROM n, (SELECT * FROM ${table} LIMIT 1) AS first`);
  };
  const sha256 = "printf('%064x', i)";
  multiply('sources', SOURCES, { sha256 });
  multiply('source_reports', SOURCES - UNREAD, { sha256 });
  multiply('programmes', SOURCES, {
    id: "'p' || i",
    source_sha256: sha256,
    job_id: `CASE WHEN i <= ${IN_JOB} THEN first.job_id ELSE '${otherId}' END`,
    position: 'i',
    title: "'Episode ' || i",
  });
  // What can't be read is not tried: their files are not there.
  await host.server.close();
  const startedMs = performance.now();
  const server = new Server(new DataFolder(host.root));
  console.info(`started in ${Math.round(performance.now() - startedMs)} ms`);
  try {
    const waiting = server.db.select({ kind: tasks.kind }).from(tasks).where(eq(tasks.kind, 'measure')).all();
    expect(waiting.length).toBeGreaterThanOrEqual(UNREAD);
    expect(viewJob(server, host.jobId).programmes).toHaveLength(IN_JOB + 1);
    expect(listJobs(server).map(({ name }) => name)).toContain('Archive');
    expect(viewProgramme(server, programmeId).measured).not.toBeNull();
  } finally {
    await server.close();
    await host.remove();
  }
});
