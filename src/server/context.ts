import type { AnalysisReader } from '@/workers/node/analysis-file';
import type { WorkerPool } from '@/workers/node/pool';
import type { FileReport } from '@/workers/protocol';
import type { Db } from './db/client';
import type { Secrets } from './secrets';
import type { DataFolder } from './storage/data-folder';
import type { Clock, TaskQueue } from './tasks/queue';
import type { TaskRunner } from './tasks/runner';

/** What the work behind the pages is done with. */
export interface ServerContext {
  readonly db: Db;
  readonly folder: DataFolder;
  readonly queue: TaskQueue;
  readonly runner: TaskRunner;
  readonly pool: WorkerPool;
  /** A thread for what is listened to: it never waits behind what is measured or written. */
  readonly listening: WorkerPool;
  readonly clock: Clock;
  /** Seals what receivers and this app know of each other. */
  readonly secrets: Secrets;
  /** What the present engine read of a source, or undefined until it has. */
  sourceReport(sha256: string): FileReport | undefined;
  /** Opens the series and waveforms kept of a measured source for as long as they are used. */
  analysis<T>(sha256: string, use: (analysis: AnalysisReader) => Promise<T>): Promise<T>;
}
