import * as z from 'zod';
import type { Finding } from '@/core/findings/finding';
import { findingsOf } from '@/core/findings/findings';
import { type ProposedGroup, proposeGroups } from '@/core/lineup/name-groups';
import { NAMED_READINGS, type NamedReading } from '@/core/loudness/reading-names';
import type { GlanceLevels } from '@/core/loudness/readings';
import { assess } from '@/core/spec/assess';
import { type AssessmentState, type Phrase, type Verdict, verdictPhrases, verdictState } from '@/core/spec/assessment';
import { distanceDb } from '@/core/spec/distance';
import { factsOfFile } from '@/core/spec/facts';
import type { Spec } from '@/core/spec/spec';
import type { Level } from '@/core/units/decibel';
import type { AudioFormat } from '@/formats/audio-format';
import type { FileReport } from '@/workers/protocol';
import type { ServerContext } from '../context';
import { among } from '../db/among';
import { programmes } from '../db/schema';
import { specNamed } from '../specs/specs';
import { type RenderingView, renderingsUnderWay } from '../take-in/renderings';
import { type TracksView, tracksUnderWay } from '../take-in/tracks';
import { type TaskView, taskOrNull } from '../tasks/view';
import { type JobView, jobOf, removedOf } from './jobs';
import { levelsOf, namesOf, type Part, type ProgrammeName, programmeIdsOf, type Window } from './programme-list';
import { type ProgrammeView, programmesWhere, ratesOfJob, reportsOf, viewReference } from './programme-view';
import { groupProgrammes } from './programmes';

/** A programme as it came in: its file, and what is worth knowing before work begins. */
export interface TakeInRow {
  id: string;
  title: string;
  fileName: string;
  note: string;
  groupName: string | null;
  sha256: string;
  sizeBytes: number;
  format: AudioFormat;
  reference: ProgrammeView['reference'];
  /** Of the file as it is, against the spec; null until it is measured. */
  measured: {
    state: AssessmentState;
    levels: GlanceLevels;
    readings: Record<NamedReading, Level>;
    misses: Phrase[];
    findings: Finding[];
  } | null;
  task: TaskView | null;
  /** Of a film, tracks that are being put together to programmes of their own, or could not be. */
  tracks: TracksView[];
  /** Of a file with an audio definition, renderings that are being made, or could not be. */
  renderings: RenderingView[];
}

/** Programmes of one group, as the heading above them tells. */
export interface GroupHead {
  /** Null for those that stand alone. */
  name: string | null;
  programmes: number;
  seconds: number;
}

/** A group that the names of programmes suggest. */
export type GroupProposal = Pick<ProposedGroup, 'kind' | 'name'> & { programmes: number };

/** A part of a job's programmes as they came in, and what is told around them. */
export interface TakenIn extends Part<TakeInRow> {
  /** All that the job has: what is listed may be fewer. */
  all: number;
  groups: GroupHead[];
  proposed: GroupProposal[];
  /** Taken out, to be put back or not. */
  removed: JobView['removed'];
}

/** By a reading: the highest first. */
const TAKE_IN_ORDERS = ['taken-in', 'furthest', 'findings', 'title', 'file', 'longest', ...NAMED_READINGS] as const;
export type TakeInOrder = (typeof TAKE_IN_ORDERS)[number];
const TAKE_IN_SHOWN = ['all', 'misses', 'inside', 'findings', 'waiting'] as const;
export type TakeInShown = (typeof TAKE_IN_SHOWN)[number];

/** What of a job is listed, and in which order. */
export const takeInListing = z.object({
  order: z.enum(TAKE_IN_ORDERS).default('taken-in'),
  /** Words, each of which stands in the title, the file's name, the note or the group. */
  find: z.string().max(200).default(''),
  /** All; those that miss the spec, or meet it; those with findings; those that are not measured yet. */
  show: z.enum(TAKE_IN_SHOWN).default('all'),
});
export type TakeInListing = z.infer<typeof takeInListing>;

const { compare } = new Intl.Collator('en', { numeric: true });

/**
 * A part of a job's programmes as they came in, under the names of their groups: each group where its first row stands.
 * Throws `not-found` or `unknown-spec`.
 */
export function listTakenIn(
  server: ServerContext,
  jobId: string,
  { specId, offset, limit, ...listing }: Window & { specId: string } & TakeInListing,
): TakenIn {
  const spec = specNamed(server, specId);
  const all = programmesOf(server, jobId);
  const ordered = listed(server, all, listing, spec);
  const rows = ordered.slice(offset, offset + limit);
  const shas = rows.map(({ sources: { sha256 } }) => sha256);
  const reports = reportsOf(server, shas);
  const tasks = server.queue.latest('measure', shas);
  const jobRates = ratesOfJob(server, jobId);
  const films = rows.filter(({ sources: { format } }) => format.track).map(({ programmes: { id } }) => id);
  const underWay = tracksUnderWay(server, films);
  const defined = rows.filter(({ sources: { sha256 } }) => reports.get(sha256)?.format.adm);
  const rendered = renderingsUnderWay(
    server,
    defined.map(({ programmes: { id } }) => id),
  );
  return {
    total: ordered.length,
    all: all.length,
    offset,
    groups: headsOf(ordered),
    proposed: proposedOf(namesOf(server, jobId)),
    removed: removedOf(server, jobId),
    rows: rows.map(({ programmes: { id, title, fileName, note, groupName }, sources: source }): TakeInRow => {
      const { sha256, sizeBytes } = source;
      const report = reports.get(sha256);
      return {
        id,
        title,
        fileName,
        note,
        groupName,
        sha256,
        sizeBytes,
        format: report?.format ?? source.format,
        reference: viewReference(source),
        measured: report ? measuredOf(report, spec, jobRates) : null,
        task: taskOrNull(tasks.get(sha256)),
        tracks: underWay.get(id) ?? [],
        renderings: rendered.get(id) ?? [],
      };
    }),
  };
}

/** The ids of everything that is listed, in its order. Throws `not-found` or `unknown-spec`. */
export function takenInIds(server: ServerContext, jobId: string, specId: string, listing: TakeInListing): string[] {
  const rows = listed(server, programmesOf(server, jobId), listing, specNamed(server, specId));
  return rows.map(({ programmes: { id } }) => id);
}

function listed(server: ServerContext, rows: readonly Row[], { order, find, show }: TakeInListing, spec: Spec): Row[] {
  const words = find.toLowerCase().split(/\s+/).filter(Boolean);
  const found = rows.filter(({ programmes: { title, fileName, note, groupName } }) => {
    const text = [title, fileName, note, groupName ?? ''].join('\n').toLowerCase();
    return words.every((word) => text.includes(word));
  });
  return inGroups(inOrder(server, shownOf(server, found, show, spec), order, spec));
}

function shownOf(server: ServerContext, rows: Row[], show: TakeInShown, spec: Spec): Row[] {
  if (show === 'all') return rows;
  const reports = reportsOf(
    server,
    rows.map(({ sources: { sha256 } }) => sha256),
  );
  return rows.filter(({ sources: { sha256 } }) => isShown(reports.get(sha256), show, spec));
}

function isShown(report: FileReport | undefined, show: Exclude<TakeInShown, 'all'>, spec: Spec): boolean {
  if (!report || show === 'waiting') return !report && show === 'waiting';
  switch (show) {
    case 'findings':
      return findingsOf(report).length > 0;
    case 'misses':
      return !verdictOf(report, spec).inside;
    case 'inside':
      return verdictState(verdictOf(report, spec)) === 'inside';
  }
}

function proposedOf(names: readonly ProgrammeName[]): GroupProposal[] {
  const loose = names.filter(({ groupName }) => groupName === null);
  return proposeGroups(loose.map(({ title }) => title)).map(({ kind, name, members }) => ({
    kind,
    name,
    programmes: members.length,
  }));
}

/** Groups programmes as their names suggest. Does nothing where they suggest it no more. Throws `not-found`. */
export function acceptProposal(
  server: ServerContext,
  jobId: string,
  { kind, name }: Omit<GroupProposal, 'programmes'>,
): void {
  jobOf(server, jobId);
  const loose = namesOf(server, jobId).filter(({ groupName }) => groupName === null);
  const group = proposeGroups(loose.map(({ title }) => title)).find((own) => own.kind === kind && own.name === name);
  const ids = group?.members.flatMap((index) => loose[index]?.id ?? []);
  if (ids) groupProgrammes(server, ids, name);
}

type Row = ReturnType<typeof programmesWhere>[number];

function programmesOf(server: ServerContext, jobId: string): Row[] {
  return programmesWhere(server, among(programmes.id, programmeIdsOf(server, jobId)));
}

function measuredOf(report: FileReport, spec: Spec, jobRates: ReadonlyMap<number, number>): TakeInRow['measured'] {
  const verdict = verdictOf(report, spec);
  return {
    state: verdictState(verdict),
    levels: levelsOf(report.readings),
    readings: Object.fromEntries(NAMED_READINGS.map((key) => [key, report.readings[key] ?? null])) as Record<
      NamedReading,
      Level
    >,
    misses: verdictPhrases(verdict).filter(({ state }) => state !== 'inside'),
    findings: findingsOf(report, jobRates),
  };
}

function verdictOf(report: FileReport, spec: Spec): Verdict {
  return assess(spec, factsOfFile(report));
}

/** Lower than whatever is read. */
const LAST = -1e9;

/** Those that are not measured yet come last where an order asks for readings. */
function inOrder(server: ServerContext, rows: readonly Row[], order: TakeInOrder, spec: Spec): Row[] {
  const by = (value: (row: Row) => number) => {
    const values = new Map(rows.map((row) => [row, value(row)]));
    return [...rows].sort((a, b) => (values.get(b) ?? 0) - (values.get(a) ?? 0));
  };
  const byReport = (value: (report: FileReport) => number) => {
    const reports = reportsOf(
      server,
      rows.map(({ sources: { sha256 } }) => sha256),
    );
    return by(({ sources: { sha256 } }) => {
      const report = reports.get(sha256);
      return report ? value(report) : LAST;
    });
  };
  switch (order) {
    case 'taken-in':
      return [...rows];
    case 'title':
      return [...rows].sort((a, b) => compare(a.programmes.title, b.programmes.title));
    case 'file':
      return [...rows].sort((a, b) => compare(a.programmes.fileName, b.programmes.fileName));
    case 'longest':
      return by(({ sources: { format } }) => format.durationSeconds);
    case 'furthest':
      return byReport((report) => distanceDb(verdictOf(report, spec)));
    case 'findings':
      // One that spoils what is delivered outweighs any number of remarks.
      return byReport((report) =>
        findingsOf(report).reduce((sum, { severity }) => sum + (severity === 'breach' ? 100 : 1), 0),
      );
    default:
      return byReport(({ readings }) => readings[order] ?? LAST);
  }
}

/** Rows of one group after each other. */
function inGroups(rows: readonly Row[]): Row[] {
  const groups = new Map<string | null, Row[]>();
  for (const row of rows) {
    const { groupName } = row.programmes;
    const group = groups.get(groupName);
    if (group) group.push(row);
    else groups.set(groupName, [row]);
  }
  return [...groups.values()].flat();
}

function headsOf(rows: readonly Row[]): GroupHead[] {
  const heads = new Map<string | null, GroupHead>();
  for (const {
    programmes: { groupName: name },
    sources: { format },
  } of rows) {
    const head = heads.get(name) ?? { name, programmes: 0, seconds: 0 };
    heads.set(name, { name, programmes: head.programmes + 1, seconds: head.seconds + format.durationSeconds });
  }
  return [...heads.values()];
}
