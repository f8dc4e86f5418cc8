import { join } from 'node:path';
import { and, eq } from 'drizzle-orm';
import type { Certificate } from '@/core/delivery/certificate';
import { DEFAULT_TEMPLATE, foldersOf } from '@/core/delivery/file-name';
import { AppError } from '@/core/errors/app-error';
import { isSheet } from '@/core/lineup/assembly';
import { certificateOf } from '../certificates/certificate';
import { certificatePdf } from '../certificates/pdf';
import type { ServerContext } from '../context';
import { assemblies, deliveries, deliveryRows } from '../db/schema';
import { jobOf } from '../jobs/jobs';
import type { MadeFile, PlacedFile } from '../storage/zip-of';
import { nameFieldsOf } from './names';

/**
 * Everything of a job that can be handed over, and its place in a ZIP or a folder: files that meet their spec or were accepted, with their
 * certificates; and records, stems and books, each in a folder. A file that misses and that nobody has decided on is left out. Where the
 * names of a job have slashes, files lie in folders.
 *
 * @throws AppError `not-found`, also where there is nothing yet
 */
export async function handedOver(
  server: ServerContext,
  jobId: string,
): Promise<{ jobName: string; files: PlacedFile[]; made: MadeFile[] }> {
  const { db, folder } = server;
  const { name: jobName, nameTemplate } = jobOf(server, jobId);
  const isWritten = and(eq(deliveries.jobId, jobId), eq(deliveries.state, 'written'));
  const written = db
    .select()
    .from(deliveries)
    .leftJoin(deliveryRows, eq(deliveryRows.id, deliveries.rowId))
    .where(isWritten)
    .all()
    .filter(({ deliveries: { verdict, acceptedReason } }) => verdict?.inside || acceptedReason);
  const files = written.flatMap(({ deliveries: { fileName, report, outcome, format }, delivery_rows: row }) => {
    const only = report?.sha256 ? [{ fileName, sha256: report.sha256 }] : [];
    const folders =
      row && format ? foldersOf(nameTemplate ?? DEFAULT_TEMPLATE, nameFieldsOf(server, row, format, 1)) : [];
    return (outcome?.files ?? only).map((file) => ({
      path: folder.delivery(jobId, file.fileName),
      name: [...folders, file.fileName].join('/'),
      sha256: file.sha256,
      isAudio: true,
    }));
  });
  const inFolders = db
    .select()
    .from(assemblies)
    .where(and(eq(assemblies.jobId, jobId), eq(assemblies.state, 'written')))
    .all()
    .flatMap(({ folderName, outcome }) =>
      (outcome?.files ?? []).map(({ fileName, sha256, role }) => ({
        path: join(folder.record(jobId, folderName), fileName),
        name: `${folderName}/${fileName}`,
        sha256,
        isAudio: !isSheet(role),
      })),
    );
  if (files.length + inFolders.length === 0) throw new AppError('not-found', { what: 'file' });
  const certificates = written.map(({ deliveries: { id } }) => certificateOf(server, id));
  return { jobName, files: [...files, ...inFolders], made: await madeOf(certificates) };
}

async function madeOf(certificates: readonly Certificate[]): Promise<MadeFile[]> {
  if (certificates.length === 0) return [];
  return [
    { name: 'certificates.pdf', bytes: await certificatePdf([...certificates]) },
    { name: 'certificates.json', bytes: Buffer.from(`${JSON.stringify(certificates, null, 2)}\n`) },
  ];
}
