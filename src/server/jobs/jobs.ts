import { and, asc, count, desc, eq, inArray, isNull, type SQL, sql } from 'drizzle-orm';
import type { ResolvedFormat } from '@/core/delivery/format';
import { AppError } from '@/core/errors/app-error';
import { NO_TAGS, type Tags } from '@/core/file-formats/tags';
import type { Finding } from '@/core/findings/finding';
import { findingsOf } from '@/core/findings/findings';
import type { ReductionFigures } from '@/core/limiter/reduction';
import { ENGINE_VERSION, type Readings } from '@/core/loudness/readings';
import type { Verdict } from '@/core/spec/assessment';
import type { Spec } from '@/core/spec/spec';
import type { Treatment } from '@/core/treatment/treatment';
import type { AudioFormat } from '@/formats/audio-format';
import type { Pass } from '@/workers/node/deliver-file';
import type { FileReport } from '@/workers/protocol';
import type { ServerContext } from '../context';
import { deliveries, jobs, markers, programmes, sourceReports, sources, type Task, treatments } from '../db/schema';
import { newId } from '../ids';
import { type ReferenceState, referenceState } from '../take-in/reference';
import { type TaskView, taskView } from '../tasks/view';
import { type TreatmentState, treatmentState } from '../treatments/treatments';

export interface DeliveryView {
  id: string;
  fileName: string;
  spec: Spec;
  treatmentVersion: number;
  /** What is done for it, as far as it is known: as it was written in the end. */
  treatment: Treatment;
  programmeId: string;
  /** The row of the sheet that it was written for; null of older ones. */
  rowId: string | null;
  /** Null of older ones: WAV of 24 bits. */
  format: ResolvedFormat | null;
  /** Of the file, or of each channel's. */
  files: { fileName: string; channel: string | null; sizeBytes: number; sha256: string }[];
  /** What it was asked to be, before anything was written. */
  asked: { spec: Spec; format: ResolvedFormat | null; treatment: Treatment | null };
  /** What the file says of itself; null of older ones. */
  said: { tags: Tags; coverSha256: string | null } | null;
  /** Every time that it was written. */
  passes: Pass[];
  acceptedReason: string | null;
  isDiscarded: boolean;
  predicted: Readings;
  /** Null until the file is written whole. */
  written: {
    format: AudioFormat;
    readings: Readings;
    verdict: Verdict;
    /** What its limiter took; null where there was none. */
    reduction: ReductionFigures | null;
    sha256: string | null;
    sizeBytes: number;
    atMs: number;
  } | null;
  task: TaskView | null;
}

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
  /** Where its file lies, if it was not copied, and whether it is still what it was. */
  reference: { path: string; state: ReferenceState } | null;
  /** What the treatment was forecast to leave; null where that is seen at a glance, or nobody has asked. */
  predicted: Readings | null;
  /** What its files say of themselves. */
  tags: Tags;
  /** The hash of the picture that they carry. */
  cover: string | null;
  /** From the first on. */
  versions: VersionView[];
  /** That a person has kept, in order of time. */
  markers: MarkerView[];
  deliveries: DeliveryView[];
}

export interface JobSummary {
  id: string;
  name: string;
  createdAtMs: number;
  isArchived: boolean;
  programmes: number;
  /** Of those, how many have been measured. */
  measured: number;
  /** Files written, and how many of them miss their spec. */
  written: number;
  missing: number;
}

export interface JobView {
  id: string;
  name: string;
  programmes: ProgrammeView[];
  /** Taken out, to be put back or not. */
  removed: { id: string; title: string; fileName: string }[];
}

export function createJob(server: ServerContext, name: string): string {
  const id = newId();
  server.db.insert(jobs).values({ id, name, createdAtMs: server.clock.now() }).run();
  return id;
}

export function archiveJob({ db, clock }: ServerContext, jobId: string, isArchived: boolean): void {
  const archivedAtMs = isArchived ? clock.now() : null;
  const { changes } = db.update(jobs).set({ archivedAtMs }).where(eq(jobs.id, jobId)).run();
  if (changes === 0) throw new AppError('not-found', { what: 'job' });
}

/** Every job, newest first, with how far it is. */
export function listJobs({ db }: ServerContext): JobSummary[] {
  const programmeCounts = db
    .select({ jobId: programmes.jobId, programmes: count(), measured: count(sourceReports.sha256) })
    .from(programmes)
    .leftJoin(
      sourceReports,
      and(eq(sourceReports.sha256, programmes.sourceSha256), eq(sourceReports.engineVersion, ENGINE_VERSION)),
    )
    .where(isNull(programmes.removedAtMs))
    .groupBy(programmes.jobId)
    .all();
  const deliveryCounts = db
    .select({
      jobId: deliveries.jobId,
      written: count(),
      missing: sql<number>`sum(not json_extract(${deliveries.verdict}, '$.inside'))`,
    })
    .from(deliveries)
    .where(eq(deliveries.state, 'written'))
    .groupBy(deliveries.jobId)
    .all();
  const ofProgrammes = new Map(programmeCounts.map((row) => [row.jobId, row]));
  const ofDeliveries = new Map(deliveryCounts.map((row) => [row.jobId, row]));
  return db
    .select()
    .from(jobs)
    .orderBy(desc(jobs.createdAtMs))
    .all()
    .map(({ id, name, createdAtMs, archivedAtMs }) => ({
      id,
      name,
      createdAtMs,
      isArchived: archivedAtMs !== null,
      programmes: ofProgrammes.get(id)?.programmes ?? 0,
      measured: ofProgrammes.get(id)?.measured ?? 0,
      written: ofDeliveries.get(id)?.written ?? 0,
      missing: ofDeliveries.get(id)?.missing ?? 0,
    }));
}

/** A job with all that its pages show. Throws `not-found`. */
export function viewJob(server: ServerContext, jobId: string): JobView {
  const { db, queue } = server;
  const job = db.select().from(jobs).where(eq(jobs.id, jobId)).get();
  if (!job) throw new AppError('not-found', { what: 'job' });
  const all = db
    .select()
    .from(programmes)
    .innerJoin(sources, eq(sources.sha256, programmes.sourceSha256))
    .where(eq(programmes.jobId, jobId))
    .orderBy(asc(programmes.position), asc(programmes.createdAtMs))
    .all();
  const rows = all.filter((row) => row.programmes.removedAtMs === null);
  const rates = rows.map((row) => row.sources.format.sampleRateHz);
  const measureTasks = queue.latest(
    'measure',
    rows.map(({ sources: source }) => source.sha256),
  );
  const deliveriesOf = viewDeliveries(server, eq(deliveries.jobId, jobId));
  const markersOf = viewMarkers(server, jobId);
  const versionsOfAll = versionsOf(
    server,
    rows.map(({ programmes: programme }) => programme.id),
  );
  return {
    id: job.id,
    name: job.name,
    programmes: rows.map(({ programmes: programme, sources: source }) => {
      const report = server.sourceReport(source.sha256);
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
        measured: report
          ? {
              readings: report.readings,
              ...{ edges: report.edges, nonFiniteSamples: report.nonFiniteSamples },
              ...{ missingFrames: report.missingFrames, tags: report.tags },
              findings: findingsOf(report, rates),
            }
          : null,
        note: programme.note,
        groupName: programme.groupName,
        reference: viewReference(source),
        task: taskOrNull(measureTasks.get(source.sha256)),
        ...treatmentState(db, programme),
        predicted: version?.predicted ?? null,
        markers: markersOf.get(programme.id) ?? [],
        versions: versions.map(({ version: number, name, treatment, predicted, heardAtMs }) => ({
          ...{ version: number, name, treatment, predicted },
          isHeard: heardAtMs !== null,
          isWritten: written.some(({ treatmentVersion }) => treatmentVersion === number),
        })),
        tags: programme.tags ?? NO_TAGS,
        cover: programme.cover?.sha256 ?? null,
        deliveries: written,
      };
    }),
    removed: all.flatMap(({ programmes: { id, title, fileName, removedAtMs } }) =>
      removedAtMs === null ? [] : [{ id, title, fileName }],
    ),
  };
}

function viewReference(source: typeof sources.$inferSelect): ProgrammeView['reference'] {
  const state = referenceState(source);
  return state && source.reference ? { path: source.reference.path, state } : null;
}

/** A delivery by itself. Throws `not-found`. */
export function viewDelivery(server: ServerContext, deliveryId: string): DeliveryView {
  const [view] = [...viewDeliveries(server, eq(deliveries.id, deliveryId)).values()].flat();
  if (!view) throw new AppError('not-found', { what: 'delivery' });
  return view;
}

/** By programme, the newest first. */
function viewDeliveries(server: ServerContext, which: SQL): Map<string, DeliveryView[]> {
  const rows = server.db
    .select()
    .from(deliveries)
    .innerJoin(treatments, eq(treatments.id, deliveries.treatmentId))
    .where(which)
    .orderBy(desc(deliveries.createdAtMs))
    .all();
  const renderTasks = server.queue.latest(
    'render',
    rows.map(({ deliveries: delivery }) => delivery.id),
  );
  const views = new Map<string, DeliveryView[]>();
  for (const { deliveries: delivery, treatments: version } of rows) {
    const { report, verdict, writtenAtMs, outcome, fileName } = delivery;
    const view: DeliveryView = {
      id: delivery.id,
      fileName,
      spec: delivery.spec,
      treatmentVersion: version.version,
      treatment: outcome?.treatment ?? delivery.treatment ?? version.treatment,
      ...{ programmeId: delivery.programmeId, rowId: delivery.rowId, format: delivery.format },
      files:
        outcome?.files ??
        (report?.sha256 ? [{ fileName, channel: null, sizeBytes: report.sizeBytes, sha256: report.sha256 }] : []),
      asked: { spec: delivery.spec, format: delivery.format, treatment: delivery.treatment },
      said: outcome?.said ?? null,
      passes: outcome?.passes ?? [],
      ...{ acceptedReason: delivery.acceptedReason, isDiscarded: delivery.discardedAtMs !== null },
      predicted: delivery.predicted,
      written:
        report && verdict && writtenAtMs !== null
          ? {
              format: report.format,
              readings: report.readings,
              verdict,
              reduction: delivery.reduction,
              sha256: report.sha256,
              sizeBytes: report.sizeBytes,
              atMs: writtenAtMs,
            }
          : null,
      task: taskOrNull(renderTasks.get(delivery.id)),
    };
    const list = views.get(delivery.programmeId);
    if (list) list.push(view);
    else views.set(delivery.programmeId, [view]);
  }
  return views;
}

function viewMarkers({ db }: ServerContext, jobId: string): Map<string, MarkerView[]> {
  const rows = db
    .select({ marker: markers })
    .from(markers)
    .innerJoin(programmes, eq(programmes.id, markers.programmeId))
    .where(eq(programmes.jobId, jobId))
    .orderBy(asc(markers.startFrame))
    .all();
  const views = new Map<string, MarkerView[]>();
  for (const { marker } of rows) {
    const { id, startFrame, endFrame, name, programmeId } = marker;
    views.set(programmeId, [...(views.get(programmeId) ?? []), { id, startFrame, endFrame, name }]);
  }
  return views;
}

function versionsOf(server: ServerContext, programmeIds: string[]) {
  const rows = server.db
    .select()
    .from(treatments)
    .where(inArray(treatments.programmeId, programmeIds))
    .orderBy(asc(treatments.version))
    .all();
  const versions = new Map<string, typeof rows>();
  for (const row of rows) versions.set(row.programmeId, [...(versions.get(row.programmeId) ?? []), row]);
  return versions;
}

function taskOrNull(task: Task | undefined): TaskView | null {
  return task ? taskView(task) : null;
}
