import { statfs } from 'node:fs/promises';
import { AppError } from '@/core/errors/app-error';

/** Left free on the disk, whatever a file or a ZIP claims to hold: the database and what is under way need some. */
const SPARED_BYTES = 500_000_000;

/** What a disk has room for, beyond what is always left free. */
export async function freeBytes(folder: string): Promise<number> {
  const { bavail, bsize } = await statfs(folder);
  return Math.max(0, bavail * bsize - SPARED_BYTES);
}

/** Throws `no-room` where a file that is to come would not fit. */
export async function checkRoom(folder: string, fileName: string, neededBytes: number): Promise<void> {
  const free = await freeBytes(folder);
  if (neededBytes > free) throw new AppError('no-room', { fileName, neededBytes, freeBytes: free });
}
