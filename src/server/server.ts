import 'server-only';
import { and, eq, notExists } from 'drizzle-orm';
import { AppError, type ErrorRecord, toErrorRecord } from '@/core/errors/app-error';
import { ENGINE_VERSION } from '@/core/loudness/readings';
import { type AnalysisReader, withAnalysis } from '@/workers/node/analysis-file';
import { WorkerPool } from '@/workers/node/pool';
import type { FileReport } from '@/workers/protocol';
import { performAssembly } from './assemblies/assemble';
import { performBatch } from './batches/perform';
import type { ServerContext } from './context';
import { type Db, lockDataFolder, openDatabase } from './db/client';
import { noticeEdits } from './db/edits';
import { programmes, sourceReports } from './db/schema';
import { performCopyOut } from './deliveries/copy-out';
import { renderDelivery } from './deliveries/render';
import { HouseKeeper } from './housekeeping/house-keeper';
import { checkItem } from './intake/intake';
import { watchDropFolders } from './intake/watch';
import { LiveLines } from './lines/live-lines';
import { measureSource } from './measure/measure-source';
import { Metrics } from './operating/metrics';
import { OpenPasses } from './outboard/open-passes';
import { performAlign } from './outboard/passes';
import { Gate } from './people/gate';
import { countPeople } from './people/people';
import { keepReceivers } from './receivers/receivers';
import { performTransfer } from './receivers/transfers';
import { Secrets } from './secrets';
import { keepCatalogue } from './specs/specs';
import { performNullTest } from './stems/null-test';
import { DataFolder } from './storage/data-folder';
import { performRendering } from './take-in/renderings';
import { performTracks } from './take-in/tracks';
import { Uploads } from './take-in/uploads';
import { EventLog } from './tasks/event-log';
import { type Clock, TaskQueue } from './tasks/queue';
import { reconcile, settleSubject } from './tasks/reconcile';
import { TaskRunner } from './tasks/runner';
import { withTouched } from './tasks/touched';

/** So many deliveries are on their way at a time. */
const SENT_AT_ONCE = 2;
/** What is set within so long is told together: a batch sets many things one after another. */
const EDITS_GATHERED_MS = 150;

/** The threads of a server. */
export interface ServerThreads {
  pool: WorkerPool;
  listening: WorkerPool;
}

export function startThreads(): ServerThreads {
  return { pool: new WorkerPool(), listening: new WorkerPool(undefined, 1) };
}

export async function endThreads({ pool, listening }: ServerThreads): Promise<void> {
  await pool.close();
  await listening.close();
}

/** Everything behind the pages, over one data folder: database, files, queue and worker threads. */
export class Server implements ServerContext {
  readonly db: Db;
  readonly folder: DataFolder;
  readonly queue: TaskQueue;
  readonly runner: TaskRunner;
  readonly pool: WorkerPool;
  readonly listening: WorkerPool;
  readonly clock: Clock = Date;
  readonly secrets = new Secrets();
  readonly uploads: Uploads;
  readonly house: HouseKeeper;
  readonly metrics: Metrics;
  /** Who is let in, where people sign in. */
  readonly gate: Gate;
  readonly lines: LiveLines;
  readonly passes: OpenPasses;
  /** What happens to tasks, for pages to listen to. */
  readonly events = new EventLog(this.clock);
  /** Ended with this server; undefined where somebody else's are used. */
  readonly #ownThreads: ServerThreads | undefined;
  readonly #lock: { close(): unknown };
  readonly #dropFolder: { close(): void };
  readonly #stopNoticing: () => void;
  readonly #startingLines: Promise<void>;
  readonly #resuming: Promise<void>;
  readonly #reconciling: Promise<void>;

  /**
   * Opens a data folder, sweeps half-written files away and resumes the tasks that were running.
   * Throws `data-in-use` where another process has it.
   *
   * @param threads of somebody who ends them; absent where this server is to have its own
   */
  constructor(folder = new DataFolder(), threads?: ServerThreads) {
    this.folder = folder;
    const lock = lockDataFolder(folder.lock);
    if (!lock) throw new AppError('data-in-use', { path: folder.root });
    this.#lock = lock;
    this.#ownThreads = threads ? undefined : startThreads();
    ({ pool: this.pool, listening: this.listening } = threads ?? (this.#ownThreads as ServerThreads));
    folder.sweep();
    try {
      this.db = openDatabase(folder.database);
    } catch (error) {
      if (this.#ownThreads) void endThreads(this.#ownThreads);
      lock.close();
      throw error;
    }
    folder.use();
    keepCatalogue(this);
    keepReceivers(this);
    this.#stopNoticing = noticeEdits(this.db, EDITS_GATHERED_MS, (touched) =>
      this.events.publish({ kind: 'edit', touched }),
    );
    this.queue = new TaskQueue(this.db, this.clock, (task) => settleSubject(this, task));
    this.runner = new TaskRunner({
      queue: this.queue,
      isReady: () => folder.isThere,
      lanes: [
        {
          kinds: ['measure', 'render', 'assemble', 'null-test', 'check', 'align', 'tracks', 'rendering'],
          most: this.pool.size,
        },
        // What it has written waits in the lane above.
        { kinds: ['batch'], most: 1 },
        { kinds: ['send'], most: SENT_AT_ONCE },
        { kinds: ['copy-out'], most: 1 },
      ],
      publish: (event) => this.events.publish(withTouched(this, event)),
      handlers: {
        measure: (sha256, context) => measureSource(this, sha256, context),
        render: (deliveryId, context) => renderDelivery(this, deliveryId, context),
        assemble: (assemblyId, context) => performAssembly(this, assemblyId, context),
        'null-test': (lineUpId, context) => performNullTest(this, lineUpId, context),
        batch: (batchId, context) => performBatch(this, batchId, context),
        send: (transferId, context) => performTransfer(this, transferId, context),
        'copy-out': (jobId, context) => performCopyOut(this, jobId, context),
        align: (passId, context) => performAlign(this, passId, context),
        tracks: (subjectId, context) => performTracks(this, subjectId, context),
        rendering: (subjectId, context) => performRendering(this, subjectId, context),
        check: (itemId, context) => checkItem(this, itemId, context),
      },
    });
    this.uploads = new Uploads(this);
    this.house = new HouseKeeper(this);
    this.metrics = new Metrics(this);
    this.gate = new Gate(this);
    this.lines = new LiveLines(this);
    this.passes = new OpenPasses(this);
    this.#dropFolder = watchDropFolders(this);
    this.queue.resume();
    this.#reconciling = reconcile(this);
    this.#measureWhatIsMissing();
    this.runner.wake();
    this.#resuming = this.uploads.resume();
    this.#startingLines = this.lines.start();
    // A line is judged by its spec as that is now.
    this.events.listen(({ kind }) => (kind === 'edit' ? this.lines.refresh() : undefined));
  }

  /** What keeps this server from saving anything; undefined where nothing does. */
  problem(): ErrorRecord | undefined {
    try {
      this.folder.check();
      return undefined;
    } catch (error) {
      return toErrorRecord(error);
    }
  }

  hasPeople(): boolean {
    return countPeople(this) > 0;
  }

  sourceReport(sha256: string): FileReport | undefined {
    return this.db
      .select()
      .from(sourceReports)
      .where(and(eq(sourceReports.sha256, sha256), eq(sourceReports.engineVersion, ENGINE_VERSION)))
      .get()?.report;
  }

  analysis<T>(sha256: string, use: (analysis: AnalysisReader) => Promise<T>): Promise<T> {
    return withAnalysis(this.folder.analysis(sha256), use);
  }

  async close(): Promise<void> {
    await Promise.all([this.#resuming, this.#reconciling, this.#startingLines]);
    await Promise.all([this.lines.close(), this.passes.close(), this.house.close()]);
    this.#dropFolder.close();
    this.runner.stop();
    this.#stopNoticing();
    if (this.#ownThreads) await endThreads(this.#ownThreads);
    this.db.$client.close();
    this.#lock.close();
  }

  /** A process may have ended between recording a source and queueing it, and a new engine reads everything anew. */
  #measureWhatIsMissing(): void {
    const isRead = this.db
      .select({ sha256: sourceReports.sha256 })
      .from(sourceReports)
      .where(and(eq(sourceReports.sha256, programmes.sourceSha256), eq(sourceReports.engineVersion, ENGINE_VERSION)));
    const shas = this.db
      .selectDistinct({ sha256: programmes.sourceSha256 })
      .from(programmes)
      .where(notExists(isRead))
      .all()
      .map(({ sha256 }) => sha256);
    const tried = this.queue.latest('measure', shas);
    // What waits already is taken up; what could not be read, or was cancelled, waits for a person.
    const untried = shas.filter((sha256) => (tried.get(sha256)?.state ?? 'done') === 'done');
    this.queue.enqueueNew('measure', untried);
  }
}

const held = globalThis as { opsimeterServer?: Server };

/** The one server of this process: pages and route handlers may be bundled apart, but share it. */
export function getServer(): Server {
  held.opsimeterServer ??= new Server();
  return held.opsimeterServer;
}
