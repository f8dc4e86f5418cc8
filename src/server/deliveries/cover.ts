import { createHash } from 'node:crypto';
import { readFile, rename, rm, writeFile } from 'node:fs/promises';
import { eq } from 'drizzle-orm';
import { checkPicture } from '@/codecs/picture';
import { type Cover, MOST_COVER_BYTES } from '@/core/delivery/cover';
import { AppError } from '@/core/errors/app-error';
import { flush } from '@/workers/node/place-file';
import type { ServerContext } from '../context';
import { programmes } from '../db/schema';
import { newId } from '../ids';
import type { DataFolder } from '../storage/data-folder';

/** The picture that a programme's files carry. Throws `not-found`. */
export async function coverOf({ db, folder }: ServerContext, programmeId: string) {
  const row = db.select({ cover: programmes.cover }).from(programmes).where(eq(programmes.id, programmeId)).get();
  if (!row?.cover) throw new AppError('not-found', { what: 'cover' });
  const { sha256, mediaType } = row.cover;
  return { bytes: new Uint8Array(await readFile(folder.cover(sha256))), mediaType };
}

/** A picture for a programme's files, or none. Throws `not-a-picture`, or `not-found`. */
export async function setCover(
  { db, folder }: ServerContext,
  programmeId: string,
  body: AsyncIterable<Uint8Array> | null,
): Promise<void> {
  const cover = body && (await storeCover(folder, body));
  const { changes } = db.update(programmes).set({ cover }).where(eq(programmes.id, programmeId)).run();
  if (changes === 0) throw new AppError('not-found', { what: 'programme' });
}

async function storeCover(folder: DataFolder, body: AsyncIterable<Uint8Array>): Promise<Cover> {
  const pieces: Uint8Array[] = [];
  let sizeBytes = 0;
  for await (const piece of body) {
    pieces.push(piece);
    sizeBytes += piece.length;
    // The rest of what is too large need not be here to be refused.
    if (sizeBytes > MOST_COVER_BYTES) break;
  }
  const bytes = Buffer.concat(pieces);
  const mediaType = await checkPicture(bytes);
  const sha256 = createHash('sha256').update(bytes).digest('hex');
  const path = folder.cover(sha256);
  const part = `${path}.${newId()}.part`;
  try {
    await writeFile(part, bytes);
    await flush(part);
    await rename(part, path);
  } finally {
    await rm(part, { force: true });
  }
  return { sha256, mediaType, sizeBytes };
}
