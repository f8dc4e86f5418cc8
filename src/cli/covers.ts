import { existsSync, readFileSync } from 'node:fs';
import { checkPicture } from '@/codecs/picture';
import type { FileTags } from '@/codecs/tag';
import { coverType } from '@/core/delivery/cover';
import { AppError } from '@/core/errors/app-error';
import { coverMessages as messages } from './messages';

/** A picture on this disk, as its first bytes say. Throws `usage` where it is none. */
export function coverAt(path: string): NonNullable<FileTags['cover']> {
  const mediaType = existsSync(path) ? coverType(readFileSync(path)) : undefined;
  if (!mediaType) throw new AppError('usage', { reason: messages.notACover(path) });
  return { path, mediaType };
}

/** Decodes it to its end, before anything is written that would carry it. Throws `not-a-picture`. */
export async function checkCover(cover: FileTags['cover']): Promise<void> {
  if (cover) await checkPicture(readFileSync(cover.path));
}
