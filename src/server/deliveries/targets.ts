import { and, asc, eq, isNull } from 'drizzle-orm';
import { ENGINE_VERSION } from '@/core/loudness/readings';
import { gainOnly, type Treatment } from '@/core/treatment/treatment';
import type { AudioFormat } from '@/formats/audio-format';
import type { ServerContext } from '../context';
import { programmes, sourceReports, sources } from '../db/schema';
import { currentTreatments } from '../treatments/treatments';

/** A programme that deliveries can be made of, with what decides which formats it can have. */
export interface DeliveryTarget {
  id: string;
  title: string;
  format: AudioFormat;
  treatment: Treatment;
}

/** The measured programmes of a job, or one of them, in the order in which they came. */
export function deliveryTargets(server: ServerContext, jobId: string, programmeId: string | null): DeliveryTarget[] {
  const rows = server.db
    .select({ programme: programmes, format: sources.format })
    .from(programmes)
    .innerJoin(sources, eq(sources.sha256, programmes.sourceSha256))
    .innerJoin(
      sourceReports,
      and(eq(sourceReports.sha256, programmes.sourceSha256), eq(sourceReports.engineVersion, ENGINE_VERSION)),
    )
    .where(
      and(
        eq(programmes.jobId, jobId),
        isNull(programmes.removedAtMs),
        programmeId === null ? undefined : eq(programmes.id, programmeId),
      ),
    )
    .orderBy(asc(programmes.position), asc(programmes.createdAtMs))
    .all();
  const treatments = currentTreatments(
    server,
    rows.map(({ programme }) => programme),
  );
  return rows.map(({ programme: { id, title }, format }) => ({
    id,
    title,
    format,
    treatment: treatments.get(id)?.treatment ?? gainOnly(0),
  }));
}
