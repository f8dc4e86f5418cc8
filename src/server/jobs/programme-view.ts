import { and, asc, count, eq, isNull, type SQL, sql } from 'drizzle-orm';
import type { LabelledStart } from '@/core/delivery/start-time-code';
import { AppError } from '@/core/errors/app-error';
import { NO_TAGS, type Tags } from '@/core/file-formats/tags';
import type { FilmTracks } from '@/core/film/film-tracks';
import type { Finding } from '@/core/findings/finding';
import { findingsOf } from '@/core/findings/findings';
import { ENGINE_VERSION, type Readings } from '@/core/loudness/readings';
import type { Treatment } from '@/core/treatment/treatment';
import type { AudioFormat } from '@/formats/audio-format';
import type { FileReport } from '@/workers/protocol';
import type { ServerContext } from '../context';
import { among } from '../db/among';
import { deliveries, markers, programmes, sourceReports, sources, treatments } from '../db/schema';
import { type PassView, viewPasses } from '../outboard/passes';
import { filmTracksOf } from '../take-in/film-tracks';
import { type ReferenceState, referenceState } from '../take-in/reference';
import { type TaskView, taskOrNull } from '../tasks/view';
import { type TreatmentState, treatmentState } from '../treatments/treatments';
import { type DeliveryView, viewDeliveries } from './delivery-view';

export interface VersionView {
  version: number;
  name: string;
  treatment: Treatment;
  predicted: Readings | null;
  isHeard: boolean;
  isWritten: boolean;
}

export interface MarkerView {
  id: string;
  startFrame: number;
  /** Null of a place. */
  endFrame: number | null;
  name: string;
}

/** What was measured of a source, and all else that a spec can ask of its file. */
type MeasuredView = Pick<FileReport, 'readings' | 'nonFiniteSamples'> & { findings: Finding[] } & {
  [Known in 'edges' | 'missingFrames' | 'tags']: FileReport[Known] | undefined;
};

export interface ProgrammeView extends TreatmentState {
  id: string;
  title: string;
  fileName: string;
  sha256: string;
  sizeBytes: number;
  format: AudioFormat;
  /** A channel layout chosen by hand; null where the file's own holds. */
  layoutId: string | null;
  /** Null until it is measured. */
  measured: MeasuredView | null;
  task: TaskView | null;
  note: string;
  groupName: string | null;
  /** Which tracks of a film it is; null where it is none of a film. */
  film: FilmTracks | null;
  /** Of its first frame, set by hand; null where that of its file holds. */
  timeCode: LabelledStart | null;
  /** Where its file lies, if it was not copied, and whether it is still what it was. */
  reference: { path: string; state: ReferenceState } | null;
  /** What the treatment was forecast to leave; null where that is seen at a glance, or nobody has asked. */
  predicted: Readings | null;
  /** Its tags. */
  tags: Tags;
  /** The hash of the picture that they carry. */
  cover: string | null;
  /** From the first on. */
  versions: VersionView[];
  /** That a person has kept, in order of time. */
  markers: MarkerView[];
  deliveries: DeliveryView[];
  /** Through outboard gear, the first first. */
  passes: PassView[];
}

/** A programme by itself. Throws `not-found`. */
export function viewProgramme(server: ServerContext, programmeId: string): ProgrammeView {
  const [view] = viewProgrammes(server, eq(programmes.id, programmeId));
  if (!view) throw new AppError('not-found', { what: 'programme' });
  return view;
}

/** Programmes that are in their jobs, in the order in which they came. */
export function viewProgrammes(server: ServerContext, which: SQL): ProgrammeView[] {
  const { db, queue } = server;
  const rows = programmesWhere(server, which);
  const ids = rows.map(({ programmes: { id } }) => id);
  const shas = rows.map(({ sources: { sha256 } }) => sha256);
  const reports = reportsOf(server, shas);
  const measureTasks = queue.latest('measure', shas);
  const deliveriesOf = viewDeliveries(server, among(deliveries.programmeId, ids));
  const markersOf = viewMarkers(server, ids);
  const passesOf = viewPasses(server, ids);
  const versionsOfAll = versionsOf(server, ids);
  const ratesOf = new Map<string, ReadonlyMap<number, number>>();
  return rows.map(({ programmes: programme, sources: source }) => {
    const { jobId } = programme;
    const jobRates = ratesOf.get(jobId) ?? ratesOfJob(server, jobId);
    ratesOf.set(jobId, jobRates);
    const report = reports.get(source.sha256);
    const versions = versionsOfAll.get(programme.id) ?? [];
    const version = versions.find(({ id }) => id === programme.treatmentId) ?? versions.at(-1);
    const written = deliveriesOf.get(programme.id) ?? [];
    return {
      id: programme.id,
      title: programme.title,
      fileName: programme.fileName,
      sha256: source.sha256,
      sizeBytes: source.sizeBytes,
      format: report?.format ?? source.format,
      layoutId: source.layoutId,
      measured: report ? viewMeasured(report, jobRates) : null,
      note: programme.note,
      groupName: programme.groupName,
      timeCode: programme.timeCode,
      film: filmTracksOf({ programmes: programme, sources: source }),
      reference: viewReference(source),
      task: taskOrNull(measureTasks.get(source.sha256)),
      ...treatmentState(db, programme),
      predicted: version?.predicted ?? null,
      markers: markersOf.get(programme.id) ?? [],
      versions: versions.map(({ version: number, name, treatment, predicted, heardAtMs }) => ({
        version: number,
        name,
        treatment,
        predicted,
        isHeard: heardAtMs !== null,
        isWritten: written.some(({ treatmentVersion }) => treatmentVersion === number),
      })),
      tags: programme.tags ?? NO_TAGS,
      cover: programme.cover?.sha256 ?? null,
      deliveries: written,
      passes: passesOf.get(programme.id) ?? [],
    };
  });
}

/** Programmes that are in their jobs with their sources, in the order in which they came. */
export function programmesWhere({ db }: ServerContext, which: SQL) {
  return db
    .select()
    .from(programmes)
    .innerJoin(sources, eq(sources.sha256, programmes.sourceSha256))
    .where(and(which, isNull(programmes.removedAtMs)))
    .orderBy(asc(programmes.position), asc(programmes.createdAtMs))
    .all();
}

/** What the present engine has read of some sources, as far as it has. */
export function reportsOf({ db }: ServerContext, shas: readonly string[]): Map<string, FileReport> {
  const rows = db
    .select()
    .from(sourceReports)
    .where(and(among(sourceReports.sha256, shas), eq(sourceReports.engineVersion, ENGINE_VERSION)))
    .all();
  return new Map(rows.map(({ sha256, report }) => [sha256, report]));
}

function viewMeasured(report: FileReport, jobRates: ReadonlyMap<number, number>): MeasuredView {
  const { readings, edges, nonFiniteSamples, missingFrames, tags } = report;
  return { readings, edges, nonFiniteSamples, missingFrames, tags, findings: findingsOf(report, jobRates) };
}

/** How many programmes of a job have which sample rate. */
export function ratesOfJob({ db }: ServerContext, jobId: string): ReadonlyMap<number, number> {
  const rows = db
    .select({ rateHz: sql<number>`json_extract(${sources.format}, '$.value.sampleRateHz')`, programmes: count() })
    .from(programmes)
    .innerJoin(sources, eq(sources.sha256, programmes.sourceSha256))
    .where(and(eq(programmes.jobId, jobId), isNull(programmes.removedAtMs)))
    .groupBy(sql`1`)
    .all();
  return new Map(rows.map((row) => [row.rateHz, row.programmes]));
}

export function viewReference(source: typeof sources.$inferSelect): ProgrammeView['reference'] {
  const state = referenceState(source);
  return state && source.reference ? { path: source.reference.path, state } : null;
}

function viewMarkers({ db }: ServerContext, programmeIds: readonly string[]): Map<string, MarkerView[]> {
  const rows = db
    .select()
    .from(markers)
    .where(among(markers.programmeId, programmeIds))
    .orderBy(asc(markers.startFrame))
    .all();
  const views = new Map<string, MarkerView[]>();
  for (const { id, startFrame, endFrame, name, programmeId } of rows) {
    views.set(programmeId, [...(views.get(programmeId) ?? []), { id, startFrame, endFrame, name }]);
  }
  return views;
}

export function versionsOf(server: ServerContext, programmeIds: readonly string[]) {
  const rows = server.db
    .select()
    .from(treatments)
    .where(among(treatments.programmeId, programmeIds))
    .orderBy(asc(treatments.version))
    .all();
  const versions = new Map<string, typeof rows>();
  for (const row of rows) versions.set(row.programmeId, [...(versions.get(row.programmeId) ?? []), row]);
  return versions;
}
