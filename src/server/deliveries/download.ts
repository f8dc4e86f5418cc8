import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { AppError } from '@/core/errors/app-error';
import { FILE_FORMATS } from '@/core/file-formats/file-formats';
import type { ServerContext } from '../context';
import type { ServedFile } from '../http/file';
import { webStream } from '../http/web-stream';
import { fileNamesOf, writtenDelivery } from './delivery-record';
import { checkIntact } from './intact';

/**
 * A file of a written delivery, as it is downloaded. Throws `not-found` until it is written whole, and `delivery-altered`.
 *
 * @param index which, where each channel has a file of its own
 */
export async function downloadDelivery(server: ServerContext, deliveryId: string, index = 0): Promise<ServedFile> {
  const delivery = writtenDelivery(server, deliveryId);
  const fileName = fileNamesOf(delivery)[index];
  if (!fileName) throw new AppError('not-found', { what: 'delivery' });
  await checkIntact(server, deliveryId);
  const path = server.folder.delivery(delivery.jobId, fileName);
  const { size } = await stat(path);
  const { kind } = delivery.format ?? { kind: 'wav' as const };
  return {
    fileName,
    mediaType: FILE_FORMATS[kind].mediaType,
    sizeBytes: size,
    stream: (part) => webStream(createReadStream(path, part)),
  };
}
