/** What is being made of a programme's file, to be taken in beside it. */
import { and, eq, like } from 'drizzle-orm';
import type { ServerContext } from '../context';
import { type Task, type TaskKind, tasks } from '../db/schema';

/** A task of this sort is about a programme and a part of its file: its subject begins with the one, and ends with the other. */
export type PartKind = Extract<TaskKind, 'tracks' | 'rendering'>;

export function partSubject(programmeId: string, part: string): string {
  return `${programmeId} ${part}`;
}

export function partOf(subjectId: string): { programmeId: string; part: string } {
  const [programmeId = '', ...part] = subjectId.split(' ');
  return { programmeId, part: part.join(' ') };
}

/** The parts of programmes that are under way, or could not be made: the newest task of each. */
export function partsUnderWay(
  { db }: ServerContext,
  kind: PartKind,
  programmeIds: readonly string[],
): Map<string, { part: string; task: Task }[]> {
  const found = new Map<string, { part: string; task: Task }[]>();
  for (const id of programmeIds) {
    const newest = new Map<string, Task>();
    const of = and(eq(tasks.kind, kind), like(tasks.subjectId, `${id} %`));
    for (const task of db.select().from(tasks).where(of).orderBy(tasks.createdAtMs).all())
      newest.set(task.subjectId, task);
    const open = [...newest.values()].filter(({ state }) => state !== 'done' && state !== 'cancelled');
    if (open.length > 0) {
      found.set(
        id,
        open.map((task) => ({ part: partOf(task.subjectId).part, task })),
      );
    }
  }
  return found;
}
