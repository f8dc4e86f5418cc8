import { setImmediate } from 'node:timers/promises';
import { and, asc, eq, isNull } from 'drizzle-orm';
import { treatedFacts } from '@/core/delivery/facts';
import { NO_TAGS, type Tags } from '@/core/file-formats/tags';
import type { Edges } from '@/core/loudness/edges';
import type { GlanceLevels, Readings } from '@/core/loudness/readings';
import { assess } from '@/core/spec/assess';
import { type AssessmentState, verdictState } from '@/core/spec/assessment';
import { unknown } from '@/core/spec/facts';
import type { Spec } from '@/core/spec/spec';
import { glance } from '@/core/treatment/forecast';
import { gainOnly, isLevelOnly, preparationOf, type Treatment } from '@/core/treatment/treatment';
import { formatSampleRate, formatTime } from '@/core/units/format';
import { type AudioFormat, describeSamples } from '@/formats/audio-format';
import type { ServerContext } from '../context';
import { among } from '../db/among';
import { programmes } from '../db/schema';
import { specNamed } from '../specs/specs';
import { type TaskView, taskOrNull } from '../tasks/view';
import { jobOf, specInUse } from './jobs';
import { programmeListMessages as messages } from './messages';
import { programmesWhere, reportsOf, versionsOf } from './programme-view';

/** A part of a long list, and how long that is in all. */
export interface Part<Row> {
  total: number;
  offset: number;
  rows: Row[];
}

/** Which part of a list is asked for. */
export interface Window {
  offset: number;
  limit: number;
}

/** A programme in the lists of its job: as its treatment leaves it, against one spec. */
export interface ProgrammeItem {
  id: string;
  title: string;
  /** Length, rate, depth and layout, in words. */
  about: string;
  /** Null until it is measured. */
  treated: { state: AssessmentState; levels: GlanceLevels } | null;
  task: TaskView | null;
}

/** A part of a job's programmes, in the order in which they came. Throws `not-found` or `unknown-spec`. */
export function listProgrammes(
  server: ServerContext,
  jobId: string,
  specId: string,
  window: Window,
): Part<ProgrammeItem> {
  const ids = programmeIdsOf(server, jobId);
  const { offset, limit } = window;
  return { total: ids.length, offset, rows: itemsOf(server, ids.slice(offset, offset + limit), specId) };
}

/** How many of a job's programmes stand how against its spec, as they are treated. */
export interface JobStanding {
  specName: string;
  inside: number;
  outside: number;
  /** Inside in what could be assessed. */
  notAssessed: number;
  notMeasured: number;
}

const COUNTED_AS = {
  inside: 'inside',
  over: 'outside',
  under: 'outside',
  missed: 'outside',
  'not-assessed': 'notAssessed',
} as const satisfies Record<AssessmentState, keyof JobStanding>;

/** So many are assessed before others have their turn. */
const ASSESSED_AT_ONCE = 50;

/** Counts the whole of a job, however many it has. Throws `not-found`. */
export async function standingOf(server: ServerContext, jobId: string): Promise<JobStanding> {
  const ids = programmeIdsOf(server, jobId);
  const { id: specId, name: specName } = specInUse(server, jobId, null);
  const standing = { specName, inside: 0, outside: 0, notAssessed: 0, notMeasured: 0 };
  for (let done = 0; done < ids.length; done += ASSESSED_AT_ONCE) {
    for (const { treated } of itemsOf(server, ids.slice(done, done + ASSESSED_AT_ONCE), specId)) {
      standing[treated ? COUNTED_AS[treated.state] : 'notMeasured']++;
    }
    await setImmediate();
  }
  return standing;
}

/** The ids of a job's programmes, in the order in which they came. Throws `not-found`. */
export function programmeIdsOf(server: ServerContext, jobId: string): string[] {
  jobOf(server, jobId);
  return namesOf(server, jobId).map(({ id }) => id);
}

/** What programmes of a job are called. */
export interface ProgrammeName {
  id: string;
  title: string;
  groupName: string | null;
}

/** The names of a job's programmes, in the order in which they came. */
export function namesOf({ db }: ServerContext, jobId: string): ProgrammeName[] {
  return db
    .select({ id: programmes.id, title: programmes.title, groupName: programmes.groupName })
    .from(programmes)
    .where(and(eq(programmes.jobId, jobId), isNull(programmes.removedAtMs)))
    .orderBy(asc(programmes.position), asc(programmes.createdAtMs))
    .all();
}

function itemsOf(server: ServerContext, ids: readonly string[], specId: string): ProgrammeItem[] {
  const spec = specNamed(server, specId);
  const rows = programmesWhere(server, among(programmes.id, ids));
  const shas = rows.map(({ sources: { sha256 } }) => sha256);
  const reports = reportsOf(server, shas);
  const tasks = server.queue.latest('measure', shas);
  const versions = versionsOf(server, ids);
  return rows.map(({ programmes: { id, title, treatmentId, tags }, sources: source }): ProgrammeItem => {
    const report = reports.get(source.sha256);
    const own = versions.get(id) ?? [];
    const version = own.find((one) => one.id === treatmentId) ?? own.at(-1);
    const treatment = version?.treatment ?? gainOnly(0);
    const format = report?.format ?? source.format;
    const readings = report && (version?.predicted ?? glance(report.readings, treatment));
    return {
      id,
      title,
      about: [
        formatTime(format.durationSeconds),
        `${formatSampleRate(format.sampleRateHz)} ${describeSamples(format)} ${format.layout}`,
      ].join(' · '),
      treated: readings
        ? {
            state: stateOf(spec, { readings, format, treatment, tags: tags ?? NO_TAGS, edges: report.edges }),
            levels: levelsOf(readings),
          }
        : null,
      task: taskOrNull(tasks.get(source.sha256)),
    };
  });
}

export function levelsOf({ integratedLufs, rmsDbfs, truePeakDbtp, samplePeakDbfs }: Readings): GlanceLevels {
  return { integratedLufs, rmsDbfs, truePeakDbtp, samplePeakDbfs };
}

/** How a programme that is not open stands: what comes before its gain is not forecast here. */
function stateOf(
  spec: Spec,
  known: {
    readings: Readings;
    format: AudioFormat;
    treatment: Treatment;
    tags: Tags;
    edges: Edges | undefined;
  },
): AssessmentState {
  const { readings, format, treatment, tags, edges } = known;
  const isPlain = isLevelOnly(preparationOf(treatment));
  const facts = treatedFacts({
    readings,
    treatment,
    tags,
    source: format,
    frames: format.frames,
    layout: format.layout,
    channels: format.channels,
    sampleRateHz: format.sampleRateHz,
    edges: (isPlain && edges) || unknown(messages.notForecastYet),
  });
  return verdictState(assess(spec, facts));
}
