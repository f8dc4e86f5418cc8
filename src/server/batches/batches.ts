import { desc, eq } from 'drizzle-orm';
import { type BatchItem, type BatchWish, type BatchWishInput, batchWish } from '@/core/batch/batch';
import { commonFormat } from '@/core/batch/common-format';
import { treatedProgramme } from '@/core/delivery/compose';
import type { DeliveryState } from '@/core/delivery/delivery-state';
import type { DeliveryFormat } from '@/core/delivery/format';
import { AppError } from '@/core/errors/app-error';
import { specLoudness } from '@/core/spec/requirements/loudness';
import { gainOnly } from '@/core/treatment/treatment';
import type { ServerContext } from '../context';
import { among } from '../db/among';
import { batches, deliveries, programmes } from '../db/schema';
import { templateOf } from '../deliveries/templates';
import { newId } from '../ids';
import { jobOf } from '../jobs/jobs';
import { programmesWhere } from '../jobs/programme-view';
import { lineUpOf } from '../line-ups/line-ups';
import { specNamed } from '../specs/specs';
import { type TaskView, taskOrNull } from '../tasks/view';
import { currentTreatments } from '../treatments/treatments';
import { batchMessages as messages } from './messages';

/** So many of a job's batches are listed. */
const MOST_LISTED = 20;

/** What has come of one programme, and of the file that is written for it. */
interface BatchItemView extends BatchItem {
  title: string;
  /** The newest of its row; null where there is none. */
  delivery: { id: string; state: DeliveryState; inside: boolean | null } | null;
}

/** Between what values the written files of a batch lie: how alike they are. */
interface BatchSpread {
  key: 'loudness' | 'noiseFloor' | 'head' | 'tail';
  unit: 'LUFS' | 'dBFS' | 's';
  least: number;
  most: number;
}

/** Something that was asked of many programmes, and how far it is. */
export interface BatchView {
  id: string;
  wish: BatchWish;
  items: BatchItemView[];
  /** Empty until at least two files were written. */
  spreads: BatchSpread[];
  createdAtMs: number;
  task: TaskView | null;
}

/**
 * Asks something of many programmes of one job: a task does it, one after another.
 *
 * @throws AppError `not-found`, `unknown-spec`, or `bad-request` where one, or the book, is of another job
 */
export function orderBatch(
  server: ServerContext,
  jobId: string,
  programmeIds: readonly string[],
  input: BatchWishInput,
): string {
  const { db, queue, runner, clock } = server;
  const wish = batchWish.parse(input);
  jobOf(server, jobId);
  if ('specId' in wish) specNamed(server, wish.specId);
  if ('templateId' in wish) templateOf(server, wish.templateId);
  const bookId = wish.kind === 'deliver' ? wish.bookId : null;
  const ids = [...new Set(programmeIds)];
  const known = db
    .select({ id: programmes.id, jobId: programmes.jobId })
    .from(programmes)
    .where(among(programmes.id, ids))
    .all();
  const isOfOther = bookId !== null && lineUpOf(server, bookId).jobId !== jobId;
  if (ids.length === 0 || known.length < ids.length || known.some((own) => own.jobId !== jobId) || isOfOther) {
    throw new AppError('bad-request', { reason: messages.otherJob });
  }
  const stated =
    wish.kind === 'deliver' && wish.format === null ? { ...wish, format: formatOf(server, wish, ids) } : wish;
  const id = newId();
  db.transaction(
    () => {
      const items = ids.map((programmeId) => ({
        programmeId,
        state: 'waiting' as const,
        text: '',
        rowId: null,
        file: null,
      }));
      db.insert(batches).values({ id, jobId, wish: stated, items, createdAtMs: clock.now() }).run();
      queue.enqueue('batch', id);
    },
    { behavior: 'immediate' },
  );
  runner.wake();
  return id;
}

/** One for all of them, as the spec takes it. */
function formatOf(server: ServerContext, { specId }: { specId: string }, ids: readonly string[]): DeliveryFormat {
  const rows = programmesWhere(server, among(programmes.id, ids));
  const current = currentTreatments(
    server,
    rows.map((row) => row.programmes),
  );
  const treated = rows.map(({ programmes: { id }, sources: { format } }) =>
    treatedProgramme(current.get(id)?.treatment ?? gainOnly(0), format, { isPassthrough: false }),
  );
  return commonFormat(specNamed(server, specId), treated);
}

/** Throws `not-found`. */
export function batchOf({ db }: Pick<ServerContext, 'db'>, batchId: string) {
  const batch = db.select().from(batches).where(eq(batches.id, batchId)).get();
  if (!batch) throw new AppError('not-found', { what: 'batch' });
  return batch;
}

/** Throws `not-found`. */
export function viewBatch(server: ServerContext, batchId: string): BatchView {
  const [view] = viewsOf(server, [batchOf(server, batchId)]);
  return view as BatchView;
}

/** The newest batches of a job. Throws `not-found`. */
export function listBatches(server: ServerContext, jobId: string): BatchView[] {
  jobOf(server, jobId);
  const rows = server.db
    .select()
    .from(batches)
    .where(eq(batches.jobId, jobId))
    .orderBy(desc(batches.createdAtMs))
    .limit(MOST_LISTED)
    .all();
  return viewsOf(server, rows);
}

function viewsOf(server: ServerContext, rows: readonly (typeof batches.$inferSelect)[]): BatchView[] {
  const tasks = server.queue.latest(
    'batch',
    rows.map(({ id }) => id),
  );
  const ids = [...new Set(rows.flatMap(({ items }) => items.map(({ programmeId }) => programmeId)))];
  const titles = new Map(
    server.db
      .select({ id: programmes.id, title: programmes.title })
      .from(programmes)
      .where(among(programmes.id, ids))
      .all()
      .map(({ id, title }) => [id, title]),
  );
  const rowIds = rows.flatMap(({ items }) => items.flatMap(({ rowId }) => rowId ?? []));
  const newest = new Map<string, typeof deliveries.$inferSelect>();
  const written = server.db.select().from(deliveries).where(among(deliveries.rowId, rowIds)).all();
  for (const own of written.sort((a, b) => a.createdAtMs - b.createdAtMs)) newest.set(own.rowId ?? '', own);
  return rows.map(({ id, wish, items, createdAtMs }) => {
    const files = items.flatMap(({ rowId }) => newest.get(rowId ?? '') ?? []);
    return {
      id,
      wish,
      createdAtMs,
      items: items.map((item) => {
        const own = newest.get(item.rowId ?? '');
        const delivery = own ? { id: own.id, state: own.state, inside: own.verdict?.inside ?? null } : null;
        return { ...item, title: titles.get(item.programmeId) ?? '', delivery };
      }),
      spreads: spreadsOf(files.filter(({ state }) => state === 'written')),
      task: taskOrNull(tasks.get(id)),
    };
  });
}

/** How alike files are that were written for one spec: what listeners notice from one to the next. */
function spreadsOf(files: readonly (typeof deliveries.$inferSelect)[]): BatchSpread[] {
  const [first] = files;
  if (!first || files.length < 2) return [];
  const { spec } = first;
  const spread = (
    key: BatchSpread['key'],
    unit: BatchSpread['unit'],
    values: readonly (number | null | undefined)[],
  ) => {
    const known = values.filter((value) => value != null);
    return known.length < 2 ? [] : [{ key, unit, least: Math.min(...known), most: Math.max(...known) }];
  };
  const reports = files.map(({ report }) => report);
  const loudness = reports.map((report) => report && specLoudness(report.readings, spec));
  return [
    ...spread('loudness', spec.loudness?.measure === 'rms' ? 'dBFS' : 'LUFS', loudness),
    ...spread(
      'noiseFloor',
      'dBFS',
      reports.map((report) => report?.readings.noiseFloorDbfs),
    ),
    ...spread(
      'head',
      's',
      reports.map((report) => report?.edges?.headSeconds),
    ),
    ...spread(
      'tail',
      's',
      reports.map((report) => report?.edges?.tailSeconds),
    ),
  ];
}

/** Records what has come of one programme. */
export function recordItem({ db }: Pick<ServerContext, 'db'>, batchId: string, item: BatchItem): void {
  db.transaction(
    (tx) => {
      const { items } = batchOf({ db }, batchId);
      const next = items.map((own) => (own.programmeId === item.programmeId ? item : own));
      tx.update(batches).set({ items: next }).where(eq(batches.id, batchId)).run();
    },
    { behavior: 'immediate' },
  );
}
