import { and, asc, eq, isNull } from 'drizzle-orm';
import { AppError } from '@/core/errors/app-error';
import { type LineFields, type LineInput, lineFields } from '@/core/live/line';
import type { Spec } from '@/core/spec/spec';
import type { ServerContext } from '../context';
import { jobs, lines } from '../db/schema';
import { newId } from '../ids';
import { jobOf } from '../jobs/jobs';
import { checkUnchanged, type Some } from '../seen';
import { specNamed, specOrUsual } from '../specs/specs';
import { lineMessages as messages } from './messages';

export type LineRow = typeof lines.$inferSelect;

/** A line as it is set up. */
export interface LineView extends LineFields {
  id: string;
  jobName: string;
  spec: Spec;
  isOn: boolean;
}

/** Hosts that lines may be opened from, as whoever serves this app allows them: only this machine, unless it says more. */
const ALLOWED_BY_ITSELF = 'localhost,127.0.0.1,::1';

/** Throws `line-not-allowed`. */
export function checkAllowed(input: LineInput): void {
  if (input.kind !== 'stream') return;
  const host = new URL(input.address).hostname.replace(/^\[(.*)\]$/, '$1').toLowerCase();
  const allowed = (process.env.OPSIMETER_LINE_HOSTS ?? ALLOWED_BY_ITSELF)
    .split(',')
    .map((own) => own.trim().toLowerCase());
  if (!allowed.includes(host)) throw new AppError('line-not-allowed', { host });
}

/** The lines that there are, the oldest first. */
export function lineRows({ db }: Pick<ServerContext, 'db'>): LineRow[] {
  return db.select().from(lines).where(isNull(lines.removedAtMs)).orderBy(asc(lines.createdAtMs)).all();
}

/** Throws `not-found`. */
export function lineRow({ db }: Pick<ServerContext, 'db'>, lineId: string): LineRow {
  const row = db
    .select()
    .from(lines)
    .where(and(eq(lines.id, lineId), isNull(lines.removedAtMs)))
    .get();
  if (!row) throw new AppError('not-found', { what: 'line' });
  return row;
}

/** What a line is judged by: a spec of its own, else that of its job, else the usual one. */
export function specOfLine(server: Pick<ServerContext, 'db'>, { specId, jobId }: LineRow): Spec {
  return specOrUsual(server, specId, jobOf(server, jobId).specId);
}

export function viewLine(server: Pick<ServerContext, 'db'>, row: LineRow): LineView {
  const { id, name, input, jobId, specId, alarms, plannedSeconds, isOn } = row;
  const jobName = server.db.select().from(jobs).where(eq(jobs.id, jobId)).get()?.name ?? '';
  return { id, name, input, jobId, jobName, specId, spec: specOfLine(server, row), alarms, plannedSeconds, isOn };
}

/** Sets up a line, which is off. Throws a ZodError, `not-found`, `unknown-spec` or `line-not-allowed`. */
export function addLine(server: ServerContext, input: unknown): string {
  const fields = checked(server, lineFields.parse(input));
  const id = newId();
  server.db
    .insert(lines)
    .values({ ...fields, id, isOn: false, createdAtMs: server.clock.now() })
    .run();
  return id;
}

/**
 * Sets some of a line. Throws a ZodError, `not-found`, `unknown-spec`, `line-not-allowed`, `changed-elsewhere`, or `bad-request` where it
 * is on and should come from elsewhere.
 */
export function changeLine(
  server: ServerContext,
  lineId: string,
  change: Partial<LineFields>,
  seen?: Some<LineFields>,
): void {
  const now = lineRow(server, lineId);
  const { name, input, jobId, specId, alarms, plannedSeconds } = now;
  const before = { name, input, jobId, specId, alarms, plannedSeconds };
  checkUnchanged({ title: name, now: before, wanted: change, seen });
  const fields = checked(server, lineFields.parse({ ...before, ...change }));
  if (now.isOn && !comesFromTheSame(input, fields.input)) {
    throw new AppError('bad-request', { reason: messages.otherInput });
  }
  server.db.update(lines).set(fields).where(eq(lines.id, lineId)).run();
}

/** The line is there no longer; its log and its recordings stay. Throws `not-found`, or `bad-request` while it is on. */
export function removeLine({ db, clock }: ServerContext, lineId: string): void {
  if (lineRow({ db }, lineId).isOn) throw new AppError('bad-request', { reason: messages.lineOn });
  db.update(lines).set({ removedAtMs: clock.now() }).where(eq(lines.id, lineId)).run();
}

function checked(server: ServerContext, fields: LineFields): LineFields {
  jobOf(server, fields.jobId);
  if (fields.specId !== null) specNamed(server, fields.specId);
  checkAllowed(fields.input);
  return fields;
}

/** The faults of a simulated line may change while it is heard. */
function comesFromTheSame(one: LineInput, other: LineInput): boolean {
  if (one.kind === 'stream') return other.kind === 'stream' && one.address === other.address;
  return one.kind === other.kind;
}
