import { eq } from 'drizzle-orm';
import { AppError } from '@/core/errors/app-error';
import { ENGINE_VERSION } from '@/core/loudness/readings';
import type { ServerContext } from '../context';
import { programmes, sourceReports } from '../db/schema';
import type { TaskContext } from '../tasks/runner';

/** Measures a stored source: the analysis beside it first, then the row that says it is there. */
export async function measureSource(server: ServerContext, sha256: string, context: TaskContext): Promise<void> {
  const { db, folder, pool, clock } = server;
  const programme = db.select().from(programmes).where(eq(programmes.sourceSha256, sha256)).get();
  if (!programme) throw new AppError('not-found', { what: 'programme' });
  const report = await pool.run(
    {
      kind: 'measure',
      path: folder.source(sha256),
      fileName: programme.fileName,
      analysisPath: folder.analysis(sha256),
    },
    context,
  );
  db.insert(sourceReports)
    .values({ sha256, engineVersion: ENGINE_VERSION, report, measuredAtMs: clock.now() })
    .onConflictDoUpdate({
      target: [sourceReports.sha256, sourceReports.engineVersion],
      set: { report, measuredAtMs: clock.now() },
    })
    .run();
}
