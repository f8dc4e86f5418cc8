import { createReadStream } from 'node:fs';
import type { Readable } from 'node:stream';
import { AppError } from '@/core/errors/app-error';
import { FILE_FORMATS, kindOfName } from '@/core/file-formats/file-formats';
import type { ServerContext } from '../context';
import type { ServedFile } from '../http/file';
import { webStream } from '../http/web-stream';
import { currentHash } from '../storage/intact';
import { zipOf } from '../storage/zip-of';
import { batchOf } from './batches';

/** A review copy, as it is downloaded: part N of those of its batch. Throws `not-found`, and `delivery-altered`. */
export async function downloadReview(server: ServerContext, batchId: string, index: number): Promise<ServedFile> {
  const file = reviewsOf(server, batchId)[index];
  if (!file) throw new AppError('not-found', { what: 'file' });
  const { fileName, path, sha256, sizeBytes } = file;
  if ((await currentHash(path, fileName)) !== sha256) throw new AppError('delivery-altered', { fileName });
  return {
    fileName,
    mediaType: FILE_FORMATS[kindOfName(fileName) ?? 'wav'].mediaType,
    sizeBytes,
    stream: (part) => webStream(createReadStream(path, part)),
  };
}

/** All review copies of a batch as one ZIP, streamed. Throws as `downloadReview`. */
export async function zipReviews(
  server: ServerContext,
  batchId: string,
): Promise<{ fileName: string; body: Readable }> {
  const files = reviewsOf(server, batchId);
  if (files.length === 0) throw new AppError('not-found', { what: 'file' });
  const body = await zipOf(
    files.map(({ path, fileName, sha256 }) => ({ path, name: fileName, sha256, isAudio: true })),
  );
  return { fileName: 'review copies.zip', body };
}

function reviewsOf(server: ServerContext, batchId: string) {
  const { items, jobId } = batchOf(server, batchId);
  return items.flatMap(({ file }) => (file ? [{ ...file, path: server.folder.review(jobId, file.fileName) }] : []));
}
