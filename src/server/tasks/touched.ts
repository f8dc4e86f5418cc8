import { eq } from 'drizzle-orm';
import type { ServerContext } from '../context';
import { deliveries, programmes, type TaskKind, transfers } from '../db/schema';
import type { TaskEvent } from './runner';

/** A programme that is not what it was. */
export interface Touched {
  jobId: string;
  programmeId: string;
}

/** What pages are told of a task: how far it is, and once it has ended, what is to be looked at again. */
export interface ServerEvent extends TaskEvent {
  touched: Touched[];
}

const SUBJECTS: Readonly<Record<TaskKind, (server: Pick<ServerContext, 'db'>, subjectId: string) => Touched[]>> = {
  measure: ({ db }, sha256) =>
    db
      .select({ jobId: programmes.jobId, programmeId: programmes.id })
      .from(programmes)
      .where(eq(programmes.sourceSha256, sha256))
      .all(),
  render: ({ db }, deliveryId) =>
    db
      .select({ jobId: deliveries.jobId, programmeId: deliveries.programmeId })
      .from(deliveries)
      .where(eq(deliveries.id, deliveryId))
      .all(),
  send: ({ db }, transferId) =>
    db
      .select({ jobId: deliveries.jobId, programmeId: deliveries.programmeId })
      .from(transfers)
      .innerJoin(deliveries, eq(deliveries.id, transfers.deliveryId))
      .where(eq(transfers.id, transferId))
      .all(),
  // What a simulated intake looks at is told by the transfer that brought it.
  check: () => [],
};

/** An event with what it touches. */
export function withTouched(server: Pick<ServerContext, 'db'>, event: TaskEvent): ServerEvent {
  const touched = event.state === 'running' ? [] : SUBJECTS[event.kind](server, event.subjectId);
  return { ...event, touched };
}
