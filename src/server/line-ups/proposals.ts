import { and, asc, eq, isNull } from 'drizzle-orm';
import type { LineUpKind } from '@/core/lineup/line-up';
import { type GroupKind, proposeGroups } from '@/core/lineup/name-groups';
import type { ServerContext } from '../context';
import { among } from '../db/among';
import { programmes } from '../db/schema';
import { jobOf } from '../jobs/jobs';
import { programmesWhere } from '../jobs/programme-view';
import { filmsOf } from './films';
import { createLineUp, type LineUpView, listLineUps } from './line-ups';

/** Programmes that seem to belong together; a person decides. */
interface LineUpProposal {
  kind: LineUpKind;
  name: string;
  programmeIds: string[];
}

interface Named {
  id: string;
  fileName: string;
  groupName: string | null;
}

const KINDS: Readonly<Record<GroupKind, LineUpKind>> = { stems: 'stems', chapters: 'book', versions: 'versions' };
/** Numbered files are a record where a word says so, and else a book. */
const RECORD_WORDS = /(^|[^a-z])(record|album|track|song|side|piece)s?([^a-z]|$)/i;
/** What a group is whose names do not tell. */
const USUAL_KIND: LineUpKind = 'record';

/** What a job has of line-ups, and could have. */
export interface LineUpsView {
  lineUps: LineUpView[];
  proposals: LineUpProposal[];
}

/** Makes a line-up of programmes that somebody has chosen, as `suggestLineUp`; returns its id. Throws `not-found`. */
export function lineUpChosen(server: ServerContext, jobId: string, programmeIds: readonly string[]): string {
  const { kind, name, programmeIds: ordered } = suggestLineUp(server, jobId, programmeIds);
  return createLineUp(server, jobId, { kind, name, members: ordered.map((programmeId) => ({ programmeId })) });
}

/** Throws `not-found`. */
export function viewLineUps(server: ServerContext, jobId: string): LineUpsView {
  return { lineUps: listLineUps(server, jobId), proposals: proposeLineUps(server, jobId) };
}

/** Line-ups that groups and the names of files suggest, of programmes that are in none. Throws `not-found`. */
function proposeLineUps(server: ServerContext, jobId: string): LineUpProposal[] {
  const taken = new Set(listLineUps(server, jobId).flatMap(({ members }) => members.map((own) => own.programmeId)));
  const free = server.db
    .select({ id: programmes.id, fileName: programmes.fileName, groupName: programmes.groupName })
    .from(programmes)
    .where(and(eq(programmes.jobId, jobId), isNull(programmes.removedAtMs)))
    .orderBy(asc(programmes.position), asc(programmes.createdAtMs))
    .all()
    .filter(({ id }) => !taken.has(id));
  const films = filmsOf(server, jobId).filter(
    ({ isMadeUp, programmeIds }) => isMadeUp && programmeIds.every((id) => !taken.has(id)),
  );
  const filmed = new Set(films.flatMap(({ programmeIds }) => programmeIds));
  const loose = free.filter(({ id, groupName }) => groupName === null && !filmed.has(id));
  const names = new Set(free.flatMap(({ groupName }) => groupName ?? []));
  return [
    ...[...names].flatMap((name) => {
      const members = free.filter(({ groupName }) => groupName === name);
      return members.length > 1 ? [ofGroup(name, members)] : [];
    }),
    ...films.map(({ name, programmeIds }) => ({ kind: 'film' as const, name, programmeIds })),
    ...groupsOf(loose),
  ];
}

/**
 * What programmes that somebody has chosen are, and their order, where the names of their files tell it of all of them; else a batch in
 * the order that is given.
 */
function suggestLineUp(server: ServerContext, jobId: string, programmeIds: readonly string[]): LineUpProposal {
  const { name: jobName } = jobOf(server, jobId);
  const rows = new Map(
    programmesWhere(server, among(programmes.id, programmeIds)).map((row) => [row.programmes.id, row]),
  );
  const members = programmeIds.flatMap((id) => rows.get(id)?.programmes ?? []);
  const told = groupsOf(members).find((group) => group.programmeIds.length === members.length);
  if (told) return told;
  const [groupName] = new Set(members.map((own) => own.groupName)).size === 1 ? [members[0]?.groupName] : [];
  return { kind: 'batch', name: groupName ?? jobName, programmeIds: members.map(({ id }) => id) };
}

/** A group that somebody has made: of the kind, and in the order, that its files' names tell, if they tell of all of them. */
function ofGroup(name: string, members: readonly Named[]): LineUpProposal {
  const told = groupsOf(members).find(({ programmeIds }) => programmeIds.length === members.length);
  return told
    ? { ...told, kind: kindOf(told.kind, [name, ...fileNamesOf(members)]), name }
    : { kind: USUAL_KIND, name, programmeIds: members.map(({ id }) => id) };
}

function groupsOf(members: readonly Named[]): LineUpProposal[] {
  const names = fileNamesOf(members);
  return proposeGroups(names).map((group) => ({
    kind: kindOf(
      KINDS[group.kind],
      group.members.flatMap((index) => names[index] ?? []),
    ),
    name: group.name,
    programmeIds: group.members.flatMap((index) => members[index]?.id ?? []),
  }));
}

function fileNamesOf(members: readonly Named[]): string[] {
  return members.map(({ fileName }) => fileName.replace(/\.[^.]+$/, ''));
}

function kindOf(kind: LineUpKind, names: readonly string[]): LineUpKind {
  return kind === 'book' && names.some((name) => RECORD_WORDS.test(name)) ? 'record' : kind;
}
