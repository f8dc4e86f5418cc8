import { Readable } from 'node:stream';
import type { ReadableStream } from 'node:stream/web';
import { and, eq, isNotNull } from 'drizzle-orm';
import { AppError } from '@/core/errors/app-error';
import { FileSource } from '@/workers/node/file-bytes';
import type { ServerContext } from '../context';
import { deliveries } from '../db/schema';

/** Opens a written delivery for download. Throws `not-found` until it is written whole. */
export async function downloadDelivery(server: ServerContext, deliveryId: string) {
  const delivery = server.db
    .select()
    .from(deliveries)
    .where(and(eq(deliveries.id, deliveryId), isNotNull(deliveries.writtenAtMs)))
    .get();
  if (!delivery) throw new AppError('not-found', { what: 'delivery' });
  const { fileName } = delivery;
  const file = await FileSource.open(server.folder.delivery(delivery.jobId, fileName), fileName);
  const body = Readable.toWeb(file.handle.createReadStream()) as ReadableStream<Uint8Array>;
  return { fileName, sizeBytes: file.size, body: body as unknown as BodyInit };
}
