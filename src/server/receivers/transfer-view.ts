import { asc, desc, eq, type SQL } from 'drizzle-orm';
import { AppError } from '@/core/errors/app-error';
import type { ServerContext } from '../context';
import { among } from '../db/among';
import { deliveries, receivers, type TRANSFER_STATES, transferLog, transfers } from '../db/schema';
import { type TaskView, taskView } from '../tasks/view';

type Transfer = typeof transfers.$inferSelect;

/** A delivery on its way, as a page shows it. */
export interface TransferView {
  id: string;
  deliveryId: string;
  receiverId: string;
  receiverName: string;
  state: (typeof TRANSFER_STATES)[number];
  /** Why it was refused. */
  reasons: string[];
  failedTries: number;
  task: TaskView | null;
  log: { atMs: number; text: string }[];
}

/** A transfer by itself. Throws `not-found`. */
export function viewTransfer(server: ServerContext, transferId: string): TransferView {
  const [view] = transferViews(server, eq(transfers.id, transferId));
  if (!view) throw new AppError('not-found', { what: 'transfer' });
  return view;
}

/** The newest transfer of each delivery to each receiver, by both; its log begins with those of the rounds before. */
export function viewTransfers(server: ServerContext, deliveryIds: readonly string[]): Map<string, TransferView> {
  const views = new Map<string, TransferView>();
  for (const view of transferViews(server, among(transfers.deliveryId, deliveryIds))) {
    const key = transferKeyOf(view.deliveryId, view.receiverId);
    views.set(key, { ...view, log: [...(views.get(key)?.log ?? []), ...view.log] });
  }
  return views;
}

/** In the order of their rounds. */
function transferViews({ db, queue }: ServerContext, which: SQL): TransferView[] {
  const rows = db
    .select()
    .from(transfers)
    .innerJoin(receivers, eq(receivers.id, transfers.receiverId))
    .where(which)
    .orderBy(asc(transfers.round))
    .all();
  const ids = rows.map((row) => row.transfers.id);
  const tasksOf = queue.latest('send', ids);
  const logged = db
    .select()
    .from(transferLog)
    .where(among(transferLog.transferId, ids))
    .orderBy(asc(transferLog.id))
    .all();
  return rows.map(({ transfers: transfer, receivers: receiver }) => {
    const { id, deliveryId, receiverId, state, reasons, failedTries } = transfer;
    const task = tasksOf.get(id);
    const log = logged.filter(({ transferId }) => transferId === id).map(({ atMs, text }) => ({ atMs, text }));
    return {
      id,
      deliveryId,
      receiverId,
      receiverName: receiver.name,
      state,
      reasons,
      failedTries,
      log,
      task: task ? taskView(task) : null,
    };
  });
}

export function transferKeyOf(deliveryId: string, receiverId: string): string {
  return `${deliveryId} ${receiverId}`;
}

/** Something that a receiver was sent. */
export type SentView = Pick<Transfer, 'id' | 'state' | 'reasons'> & {
  fileName: string;
  jobId: string;
  programmeId: string;
  atMs: number;
};

const MOST_SHOWN = 30;

/** What a receiver was sent, the newest first. */
export function sentTo(server: ServerContext, receiverId: string): SentView[] {
  return server.db
    .select({
      id: transfers.id,
      fileName: deliveries.fileName,
      jobId: deliveries.jobId,
      programmeId: deliveries.programmeId,
      state: transfers.state,
      reasons: transfers.reasons,
      atMs: transfers.createdAtMs,
    })
    .from(transfers)
    .innerJoin(deliveries, eq(deliveries.id, transfers.deliveryId))
    .where(eq(transfers.receiverId, receiverId))
    .orderBy(desc(transfers.createdAtMs))
    .limit(MOST_SHOWN)
    .all();
}
