import { and, desc, eq, gte, isNull, lt, or } from 'drizzle-orm';
import { type AlarmDetail, NO_DETAIL } from '@/core/live/alarms/alarm';
import type { LineEvent, LineEventKind } from '@/core/live/line-event';
import type { ServerContext } from '../context';
import { lineEvents } from '../db/schema';

type Context = Pick<ServerContext, 'db'>;

/** Something that began, or happened in no time. */
interface NewEvent {
  kind: LineEventKind;
  startMs: number;
  endMs: number | null;
  words: string;
  detail?: AlarmDetail;
}

/** Notes what happened on a line; of an alarm, what it is by now, and that it is over. */
export function noteEvent({ db }: Context, lineId: string, event: NewEvent): LineEvent {
  const { detail = NO_DETAIL, ...own } = event;
  const { kind, startMs } = own;
  const open = db
    .select({ id: lineEvents.id })
    .from(lineEvents)
    .where(and(eq(lineEvents.lineId, lineId), eq(lineEvents.kind, kind), isNull(lineEvents.endMs)))
    .get();
  if (open) {
    const { endMs, words } = own;
    db.update(lineEvents).set({ endMs, words, detail }).where(eq(lineEvents.id, open.id)).run();
    return { id: open.id, kind, startMs, endMs, words };
  }
  const { lastInsertRowid } = db
    .insert(lineEvents)
    .values({ ...own, lineId, detail })
    .run();
  return { id: Number(lastInsertRowid), ...own };
}

/** What goes on is over: nobody hears the line any more. */
export function endEvents({ db }: Context, lineId: string, endMs: number): LineEvent[] {
  return db
    .update(lineEvents)
    .set({ endMs })
    .where(and(eq(lineEvents.lineId, lineId), isNull(lineEvents.endMs)))
    .returning()
    .all()
    .map(viewEvent);
}

/** What happened between two times of the clock, the latest first. */
export function eventsBetween(
  { db }: Context,
  lineId: string,
  fromMs: number,
  toMs: number,
  most: number,
): LineEvent[] {
  const isWithin = and(
    eq(lineEvents.lineId, lineId),
    lt(lineEvents.startMs, toMs),
    or(isNull(lineEvents.endMs), gte(lineEvents.endMs, fromMs)),
  );
  return db
    .select()
    .from(lineEvents)
    .where(isWithin)
    .orderBy(desc(lineEvents.startMs))
    .limit(most)
    .all()
    .map(viewEvent);
}

function viewEvent({ id, kind, startMs, endMs, words }: typeof lineEvents.$inferSelect): LineEvent {
  return { id, kind: kind as LineEventKind, startMs, endMs, words };
}
