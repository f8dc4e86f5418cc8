import { join } from 'node:path';
import type { Readable } from 'node:stream';
import { and, eq } from 'drizzle-orm';
import { slug } from '@/core/delivery/file-name';
import { AppError } from '@/core/errors/app-error';
import { certificateOf } from '../certificates/certificate';
import { certificatePdf } from '../certificates/pdf';
import type { ServerContext } from '../context';
import { assemblies, deliveries } from '../db/schema';
import { jobOf } from '../jobs/jobs';
import { zipOf } from '../storage/zip-of';

/**
 * Everything of a job that can be handed over, as one ZIP: files that meet their spec or were accepted, with their certificates; and records
 * and stems, each in a folder. A file that misses and that nobody has decided on is left out.
 *
 * @throws AppError `not-found`, also where there is nothing yet; `file-missing` or `delivery-altered`
 */
export async function zipWritten(server: ServerContext, jobId: string): Promise<{ fileName: string; body: Readable }> {
  const { db, folder } = server;
  const { name } = jobOf(server, jobId);
  const isWritten = and(eq(deliveries.jobId, jobId), eq(deliveries.state, 'written'));
  const handedOver = db
    .select()
    .from(deliveries)
    .where(isWritten)
    .all()
    .filter(({ verdict, acceptedReason }) => verdict?.inside || acceptedReason);
  const files = handedOver.flatMap(({ fileName, report, outcome }) => {
    const only = report?.sha256 ? [{ fileName, sha256: report.sha256 }] : [];
    return (outcome?.files ?? only).map((file) => ({
      path: folder.delivery(jobId, file.fileName),
      name: file.fileName,
      sha256: file.sha256,
      isAudio: true,
    }));
  });
  const folders = db
    .select()
    .from(assemblies)
    .where(and(eq(assemblies.jobId, jobId), eq(assemblies.state, 'written')))
    .all()
    .flatMap(({ folderName, outcome }) =>
      (outcome?.files ?? []).map(({ fileName, sha256, role }) => ({
        path: join(folder.record(jobId, folderName), fileName),
        name: `${folderName}/${fileName}`,
        sha256,
        isAudio: role === 'audio',
      })),
    );
  if (files.length + folders.length === 0) throw new AppError('not-found', { what: 'file' });
  // Their files are compared with their hashes as they are put in.
  const certificates = handedOver.map(({ id }) => certificateOf(server, id));
  const made =
    certificates.length === 0
      ? []
      : [
          { name: 'certificates.pdf', bytes: await certificatePdf(certificates) },
          { name: 'certificates.json', bytes: Buffer.from(`${JSON.stringify(certificates, null, 2)}\n`) },
        ];
  return { fileName: `${slug(name)}.zip`, body: await zipOf([...files, ...folders], made) };
}
