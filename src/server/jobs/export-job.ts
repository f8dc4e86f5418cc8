import { join } from 'node:path';
import { PassThrough, type Readable } from 'node:stream';
import { and, asc, eq, isNotNull, isNull } from 'drizzle-orm';
import yazl from 'yazl';
import { slug } from '@/core/delivery/file-name';
import { AppError } from '@/core/errors/app-error';
import { findingsOf } from '@/core/findings/findings';
import { USUAL_RECORD } from '@/core/lineup/line-up';
import { ENGINE_VERSION } from '@/core/loudness/readings';
import type { ServerContext } from '../context';
import {
  assemblies,
  deliveries,
  type jobs,
  lineUpMembers,
  lineUps,
  markers,
  programmes,
  sources,
  treatments,
} from '../db/schema';
import { rowsOfProgramme } from '../deliveries/rows';
import { describePasses } from '../outboard/archive-passes';
import { sourcePath } from '../take-in/reference';
import { coversOf, filesOf, type Manifest } from './archive-manifest';
import { describeRecord } from './archive-record';
import { jobOf } from './jobs';

/**
 * A job as one ZIP, streamed: `manifest.json`, then the sources' bytes and the files that were written, as they are:
 * deliveries, and records, stems and books in their folders.
 * Throws `not-found`, or what is wrong with a source that lies elsewhere.
 */
export async function exportJob(server: ServerContext, jobId: string): Promise<{ fileName: string; body: Readable }> {
  const { db, folder } = server;
  const job = jobOf(server, jobId);
  const manifest = describeJob(server, job);
  const zip = new yazl.ZipFile();
  zip.addBuffer(Buffer.from(JSON.stringify(manifest, null, 2)), 'manifest.json');
  for (const { sha256 } of manifest.sources) {
    const source = db.select().from(sources).where(eq(sources.sha256, sha256)).get();
    const programme = manifest.programmes.find(({ sourceSha256 }) => sourceSha256 === sha256);
    if (!source || !programme) throw new AppError('not-found', { what: 'source' });
    // Sound hardly becomes smaller, and takes long to try.
    zip.addFile(await sourcePath(server, source, programme.fileName), `sources/${sha256}`, { compress: false });
  }
  for (const { fileName } of manifest.programmes.flatMap(({ deliveries: written }) => written.flatMap(filesOf))) {
    zip.addFile(folder.delivery(jobId, fileName), `deliveries/${fileName}`, { compress: false });
  }
  for (const { folderName, outcome } of manifest.lineUps.flatMap(({ records }) => records)) {
    for (const { fileName } of outcome.files) {
      const path = join(folder.record(jobId, folderName), fileName);
      zip.addFile(path, `records/${folderName}/${fileName}`, { compress: false });
    }
  }
  for (const sha256 of coversOf(manifest).keys())
    zip.addFile(folder.cover(sha256), `covers/${sha256}`, { compress: false });
  const body = new PassThrough();
  zip.on('error', (error) => body.destroy(error as Error));
  zip.outputStream.pipe(body);
  zip.end();
  return { fileName: `${slug(job.name)}.zip`, body };
}

function describeJob(server: ServerContext, job: typeof jobs.$inferSelect): Manifest {
  const { db } = server;
  const jobProgrammes = db
    .select()
    .from(programmes)
    .innerJoin(sources, eq(sources.sha256, programmes.sourceSha256))
    .where(eq(programmes.jobId, job.id))
    .orderBy(asc(programmes.position), asc(programmes.createdAtMs))
    .all();
  const programmeIds = jobProgrammes.map(({ programmes: { id } }) => id);
  return {
    format: 'opsimeter-job',
    version: 1,
    engineVersion: ENGINE_VERSION,
    job: { name: job.name, createdAtMs: job.createdAtMs, archivedAtMs: job.archivedAtMs, specId: job.specId },
    sources: jobProgrammes.map(({ sources: { sha256, sizeBytes, layoutId, format } }) => {
      const report = server.sourceReport(sha256);
      return {
        sha256,
        sizeBytes,
        layoutId: layoutId as Manifest['sources'][number]['layoutId'],
        track: format.track?.number ?? null,
        readings: report?.readings ?? null,
        findings: report ? findingsOf(report) : null,
      };
    }),
    programmes: jobProgrammes.map(({ programmes: programme }) => {
      const { sourceSha256, title, fileName, note, groupName, tags, cover, film, timeCode, createdAtMs, removedAtMs } =
        programme;
      const versions = db.select().from(treatments).where(eq(treatments.programmeId, programme.id)).all();
      const rows = rowsOfProgramme(server, programme.id);
      return {
        sourceSha256,
        title,
        fileName,
        note,
        groupName,
        tags,
        cover,
        film,
        timeCode,
        createdAtMs,
        removedAtMs,
        currentVersion: versions.find(({ id }) => id === programme.treatmentId)?.version ?? null,
        treatments: versions.map(({ version, treatment, name, heardAtMs, updatedAtMs }) => ({
          version,
          treatment,
          name,
          heardAtMs,
          updatedAtMs,
        })),
        markers: db
          .select()
          .from(markers)
          .where(eq(markers.programmeId, programme.id))
          .all()
          .map(({ startFrame, endFrame, name, createdAtMs: atMs }) => ({
            startFrame,
            endFrame,
            name,
            createdAtMs: atMs,
          })),
        rows: rows.map(({ specId, format, levelMode, trim, edges }) => ({ specId, format, levelMode, trim, edges })),
        deliveries: describeDeliveries(server, programme.id, rows),
      };
    }),
    lineUps: describeLineUps(server, job.id, programmeIds),
    passes: describePasses(server, programmeIds),
  };
}

/** Programmes that belong together, each by its place among those of the job; those that were taken out of it included. */
function describeLineUps({ db }: ServerContext, jobId: string, programmeIds: readonly string[]): Manifest['lineUps'] {
  const rows = db
    .select()
    .from(lineUps)
    .where(and(eq(lineUps.jobId, jobId), isNull(lineUps.removedAtMs)))
    .orderBy(asc(lineUps.createdAtMs))
    .all();
  return rows.map(({ id, kind, name, specId, record, mixId, createdAtMs }) => {
    const members = db
      .select()
      .from(lineUpMembers)
      .where(eq(lineUpMembers.lineUpId, id))
      .orderBy(asc(lineUpMembers.position))
      .all()
      .map(({ programmeId, gapSeconds }) => ({ programme: programmeIds.indexOf(programmeId), gapSeconds }));
    /** The place of a programme of this line-up; null where it is none. */
    const placeOf = (id: string | undefined | null) => {
      const place = id == null ? -1 : programmeIds.indexOf(id);
      return members.some(({ programme }) => programme === place) ? place : null;
    };
    return {
      kind,
      name,
      specId,
      record: record ?? USUAL_RECORD,
      mix: placeOf(mixId),
      sampled: placeOf(record?.book.sample?.programmeId),
      createdAtMs,
      members,
      records: db
        .select()
        .from(assemblies)
        .where(and(eq(assemblies.lineUpId, id), eq(assemblies.state, 'written')))
        .orderBy(asc(assemblies.createdAtMs))
        .all()
        .flatMap((row) => describeRecord(row, (programmeId) => programmeIds.indexOf(programmeId))),
    };
  });
}

/** Those that have been written: what is queued is not there yet. */
function describeDeliveries(
  { db }: ServerContext,
  programmeId: string,
  rows: readonly { id: string }[],
): Manifest['programmes'][number]['deliveries'] {
  const jobProgrammes = db
    .select()
    .from(deliveries)
    .innerJoin(treatments, eq(treatments.id, deliveries.treatmentId))
    .where(
      and(eq(deliveries.programmeId, programmeId), isNotNull(deliveries.writtenAtMs), isNull(deliveries.discardedAtMs)),
    )
    .all();
  return jobProgrammes.flatMap(({ deliveries: delivery, treatments: version }) => {
    const { fileName, sourceSha256, spec, report, format, outcome, acceptedReason, createdAtMs, writtenAtMs } =
      delivery;
    const { acceptedBy, approvedBy, approvedAtMs } = delivery;
    if (!report?.sha256 || writtenAtMs === null) return [];
    const { sha256, sizeBytes, readings } = report;
    const files = (outcome?.files ?? []).flatMap(({ channel, ...file }) =>
      channel === null ? [] : [{ ...file, channel }],
    );
    return [
      {
        fileName,
        sourceSha256,
        sha256,
        sizeBytes,
        treatmentVersion: version.version,
        spec,
        createdAtMs,
        writtenAtMs,
        readings,
        files,
        format,
        treatment: outcome?.treatment ?? null,
        acceptedReason,
        acceptedBy,
        approvedBy,
        approvedAtMs,
        passes: outcome?.passes ?? [],
        expectedFrames: outcome?.expectedFrames ?? null,
        startTimeCode: outcome?.startTimeCode ?? null,
        audioSha256: outcome?.audioSha256 ?? null,
        said: outcome?.said ?? null,
        row: indexOf(rows, delivery.rowId),
      },
    ];
  });
}

function indexOf(rows: readonly { id: string }[], rowId: string | null): number | null {
  const index = rows.findIndex(({ id }) => id === rowId);
  return index < 0 ? null : index;
}
