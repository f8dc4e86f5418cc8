import type { Touched } from '../tasks/touched';
import type { Db } from './client';

type Edited = Extract<Touched, { isEdited: true } | { programmeId: string } | { isShared: true }>;

/** In SQL, of a row that is called as it says. */
type InSql = (row: 'NEW' | 'OLD') => string;

/** Of a table, what people set. What tasks write as they go on is not among it. */
interface EditedTable {
  table: string;
  columns: readonly string[];
  /** Undefined where all jobs share it. */
  jobId?: InSql;
  /** Where it is of one programme and of nothing else that is shown beside it. */
  programmeId?: InSql;
  /** That a row is new is told otherwise: by the task that comes with it, or by another of these. */
  isToldWhenMade?: true;
}

const own: InSql = (row) => `${row}.job_id`;
const programme: InSql = (row) => `${row}.programme_id`;
const ofProgramme: InSql = (row) => `(SELECT job_id FROM programmes WHERE id = ${row}.programme_id)`;
const ofLineUp: InSql = (row) => `(SELECT job_id FROM line_ups WHERE id = ${row}.line_up_id)`;

const EDITED: readonly EditedTable[] = [
  {
    table: 'jobs',
    columns: ['name', 'archived_at_ms', 'name_template', 'spec_id', 'deleted_at_ms'],
    jobId: (row) => `${row}.id`,
    isToldWhenMade: true,
  },
  { table: 'programmes', columns: ['title', 'position', 'group_name', 'removed_at_ms'], jobId: own },
  {
    table: 'programmes',
    columns: ['source_sha256', 'note', 'edit_id', 'tags', 'cover'],
    jobId: own,
    programmeId: (row) => `${row}.id`,
    isToldWhenMade: true,
  },
  { table: 'treatments', columns: ['name'], jobId: ofProgramme, programmeId: programme, isToldWhenMade: true },
  { table: 'markers', columns: ['start_frame', 'end_frame', 'name'], jobId: ofProgramme, programmeId: programme },
  { table: 'outboard_passes', columns: ['pass_programme_id'], jobId: ofProgramme, programmeId: programme },
  { table: 'line_ups', columns: ['name', 'kind', 'spec_id', 'record', 'mix_id', 'removed_at_ms'], jobId: own },
  { table: 'line_up_members', columns: ['position', 'gap_seconds'], jobId: ofLineUp },
  { table: 'delivery_rows', columns: ['position'], jobId: own, isToldWhenMade: true },
  {
    table: 'delivery_rows',
    columns: ['spec_id', 'format', 'level_mode', 'trim', 'edges', 'receiver_id', 'removed_at_ms'],
    jobId: own,
    programmeId: programme,
  },
  {
    table: 'deliveries',
    columns: ['accepted_reason', 'discarded_at_ms', 'approved_at_ms'],
    jobId: own,
    programmeId: programme,
    isToldWhenMade: true,
  },
  { table: 'specs', columns: ['retired_at_ms'] },
  {
    table: 'lines',
    columns: ['name', 'input', 'job_id', 'spec_id', 'alarms', 'planned_seconds', 'is_on', 'removed_at_ms'],
  },
  { table: 'receivers', columns: ['name', 'kind', 'address', 'secret', 'removed_at_ms'] },
];

/**
 * Notices whatever people set, however it comes: by a page, by the API, or by a batch. The database itself tells, by triggers of this
 * connection; what is undone with its transaction may be told all the same.
 *
 * @param gatherMs so long after the first of it, what comes together is told together
 * @param onEdit called with what is no longer as it was: all of a job, programmes of it, or what all jobs share
 * @returns what stops it
 */
export function noticeEdits(
  { $client: client }: Pick<Db, '$client'>,
  gatherMs: number,
  onEdit: (edited: Edited[]) => void,
): () => void {
  let programmesOf = new Map<string, Set<string> | 'all'>();
  let isShared = false;
  let gathering: NodeJS.Timeout | undefined;
  const tell = () => {
    const edited = [...programmesOf].flatMap(([jobId, ids]): Edited[] =>
      ids === 'all' ? [{ jobId, isEdited: true }] : [...ids].map((programmeId) => ({ jobId, programmeId })),
    );
    if (isShared) edited.push({ isShared: true });
    programmesOf = new Map();
    isShared = false;
    gathering = undefined;
    onEdit(edited);
  };
  client.function('note_shared_edit', () => {
    isShared = true;
    gathering ??= setTimeout(tell, gatherMs);
    return null;
  });
  client.function('note_edit', (jobId: unknown, programmeId: unknown) => {
    if (typeof jobId !== 'string') return null;
    const known = programmesOf.get(jobId) ?? new Set();
    if (typeof programmeId !== 'string') programmesOf.set(jobId, 'all');
    else if (known !== 'all') programmesOf.set(jobId, known.add(programmeId));
    gathering ??= setTimeout(tell, gatherMs);
    return null;
  });
  for (const [i, { table, columns, jobId, programmeId = () => 'NULL', isToldWhenMade }] of EDITED.entries()) {
    const trigger = (when: string, row: 'NEW' | 'OLD') =>
      client.exec(
        `CREATE TEMP TRIGGER edited_${i}_${when.slice(0, 6).toLowerCase()} AFTER ${when} ON main.${table}
         BEGIN SELECT ${jobId ? `note_edit(${jobId(row)}, ${programmeId(row)})` : 'note_shared_edit()'}; END`,
      );
    trigger(`UPDATE OF ${columns.join(', ')}`, 'NEW');
    if (isToldWhenMade) continue;
    trigger('INSERT', 'NEW');
    trigger('DELETE', 'OLD');
  }
  return () => clearTimeout(gathering);
}
