import { AppError } from '@/core/errors/app-error';
import type { ServerContext } from '../context';
import { currentHash } from '../storage/intact';
import { writtenDelivery } from './delivery-record';

/**
 * Holds the files of a written delivery to what they were when they were verified, before anybody is given or told anything of
 * them.
 *
 * @throws AppError `not-found`, `file-missing` or `delivery-altered`
 */
export async function checkIntact(server: ServerContext, deliveryId: string): Promise<void> {
  const { jobId, fileName, outcome, report } = writtenDelivery(server, deliveryId);
  const files = outcome?.files ?? [{ fileName, sha256: report?.sha256 ?? null }];
  for (const { fileName: name, sha256 } of files) {
    const now = await currentHash(server.folder.delivery(jobId, name), name);
    if (now !== sha256) throw new AppError('delivery-altered', { fileName: name });
  }
}
