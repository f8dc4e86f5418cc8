import { and, asc, eq } from 'drizzle-orm';
import { type Certificate, certifiedReadingsOf } from '@/core/delivery/certificate';
import { deliveryFormatSchema, describeFormat, resolveFormat } from '@/core/delivery/format';
import { AppError } from '@/core/errors/app-error';
import { describeTreatment } from '@/core/treatment/treatment';
import type { ServerContext } from '../context';
import { deliveries, jobs, programmes, sources, treatments } from '../db/schema';
import { sourceOfDelivery } from '../deliveries/delivery-record';
import { checkIntact } from '../deliveries/intact';
import { placesInLineUps } from '../line-ups/line-ups';

const WAV = deliveryFormatSchema.parse({ kind: 'wav' });

/**
 * What is certified of a written delivery, to be given away: its file is held to its hash first.
 *
 * @throws AppError `not-found` until it is written and once it was discarded, `file-missing` or `delivery-altered`
 */
export async function issuedCertificate(server: ServerContext, deliveryId: string): Promise<Certificate> {
  await checkIntact(server, deliveryId);
  return certificateOf(server, deliveryId);
}

/** Those of everything that a job has handed over, in the order in which it was written. Throws as `issuedCertificate`. */
export async function issuedCertificates(server: ServerContext, jobId: string): Promise<Certificate[]> {
  const written = server.db
    .select({ id: deliveries.id })
    .from(deliveries)
    .where(and(eq(deliveries.jobId, jobId), eq(deliveries.state, 'written')))
    .all();
  for (const { id } of written) await checkIntact(server, id);
  return certificates(server, eq(deliveries.jobId, jobId));
}

/** What is certified of a written delivery. Throws `not-found` until it is written, and once it was discarded. */
export function certificateOf(server: ServerContext, deliveryId: string): Certificate {
  const [certificate] = certificates(server, eq(deliveries.id, deliveryId));
  if (!certificate) throw new AppError('not-found', { what: 'certificate' });
  return certificate;
}

function certificates(server: ServerContext, which: ReturnType<typeof eq>): Certificate[] {
  const { db, clock } = server;
  const rows = db
    .select()
    .from(deliveries)
    .innerJoin(programmes, eq(programmes.id, deliveries.programmeId))
    .innerJoin(sources, eq(sources.sha256, sourceOfDelivery))
    .innerJoin(treatments, eq(treatments.id, deliveries.treatmentId))
    .innerJoin(jobs, eq(jobs.id, deliveries.jobId))
    .where(and(which, eq(deliveries.state, 'written')))
    .orderBy(asc(deliveries.writtenAtMs))
    .all();
  const known = new Map<string, ReturnType<typeof placesInLineUps>>();
  const placesOf = (jobId: string) => {
    const places = known.get(jobId) ?? placesInLineUps(server, jobId);
    known.set(jobId, places);
    return places;
  };
  return rows.flatMap(
    ({ deliveries: delivery, programmes: programme, sources: source, treatments: version, jobs: job }) => {
      const { report, verdict, outcome, spec, fileName, writtenAtMs, acceptedReason, acceptedBy } = delivery;
      const { approvedBy, approvedAtMs } = delivery;
      if (!report?.sha256 || !verdict || writtenAtMs === null) return [];
      const { readings, format: written } = report;
      const format = delivery.format ?? resolveFormat(WAV, written);
      const steps = outcome?.treatment ?? delivery.treatment ?? version.treatment;
      const only = { fileName, channel: null, sizeBytes: report.sizeBytes, sha256: report.sha256 };
      return [
        {
          certificate: 'opsimeter' as const,
          version: 1 as const,
          issuedAt: new Date(clock.now()).toISOString(),
          job: job.name,
          programme: programme.title,
          spec,
          inside: verdict.inside,
          acceptedReason,
          acceptedBy,
          approved:
            approvedBy !== null && approvedAtMs !== null
              ? { by: approvedBy, at: new Date(approvedAtMs).toISOString() }
              : null,
          partOf: placesOf(job.id).get(programme.id) ?? [],
          source: { fileName: fileNameOf(server, programme, source.sha256), sha256: source.sha256 },
          writtenAt: new Date(writtenAtMs).toISOString(),
          files: outcome?.files ?? [only],
          format,
          formatText: describeFormat(format),
          layout: written.layout,
          frames: written.frames,
          durationSeconds: written.durationSeconds,
          startTimeCode: outcome?.startTimeCode ?? null,
          audioSha256: outcome?.audioSha256 ?? null,
          readings: certifiedReadingsOf(readings),
          checks: verdict.items.map(({ name, found, required, inside }) => ({ name, found, required, inside })),
          notJudged: [...verdict.notJudged],
          treatment: describeTreatment(steps, source.format.sampleRateHz),
          treatmentVersion: version.version,
          reductionDb: delivery.reduction?.greatestDb ?? null,
          curve: outcome?.curve ?? null,
        },
      ];
    },
  );
}

/** What a source is called in its job: a programme that has another one by now has left its name to the one that has it. */
function fileNameOf(
  { db }: ServerContext,
  { jobId, fileName, sourceSha256 }: typeof programmes.$inferSelect,
  sha256: string,
): string {
  if (sha256 === sourceSha256) return fileName;
  const holder = db
    .select({ fileName: programmes.fileName })
    .from(programmes)
    .where(and(eq(programmes.jobId, jobId), eq(programmes.sourceSha256, sha256)))
    .get();
  return holder?.fileName ?? fileName;
}
