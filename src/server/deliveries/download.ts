import { Readable } from 'node:stream';
import type { ReadableStream } from 'node:stream/web';
import { and, eq, isNotNull, isNull } from 'drizzle-orm';
import type { FileKind } from '@/core/delivery/file-kinds';
import { AppError } from '@/core/errors/app-error';
import { FileSource } from '@/workers/node/file-bytes';
import type { ServerContext } from '../context';
import { deliveries } from '../db/schema';
import { fileNamesOf } from './deliveries';

const MEDIA_TYPES: Readonly<Record<FileKind, string>> = {
  wav: 'audio/wav',
  bw64: 'audio/wav',
  aiff: 'audio/aiff',
  flac: 'audio/flac',
  mp3: 'audio/mpeg',
  m4a: 'audio/mp4',
  opus: 'audio/ogg',
  ogg: 'audio/ogg',
  mp2: 'audio/mpeg',
};

/**
 * Opens a file of a written delivery for download. Throws `not-found` until it is written whole.
 *
 * @param index which, where each channel has a file of its own
 */
export async function downloadDelivery(server: ServerContext, deliveryId: string, index = 0) {
  const delivery = server.db
    .select()
    .from(deliveries)
    .where(and(eq(deliveries.id, deliveryId), isNotNull(deliveries.writtenAtMs), isNull(deliveries.discardedAtMs)))
    .get();
  const fileName = delivery && fileNamesOf(delivery)[index];
  if (!fileName) throw new AppError('not-found', { what: 'delivery' });
  const file = await FileSource.open(server.folder.delivery(delivery.jobId, fileName), fileName);
  const body = Readable.toWeb(file.handle.createReadStream()) as ReadableStream<Uint8Array>;
  const { kind } = delivery.format ?? { kind: 'wav' as const };
  return { fileName, mediaType: MEDIA_TYPES[kind], sizeBytes: file.size, body: body as unknown as BodyInit };
}
