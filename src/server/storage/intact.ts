import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { hashStream } from '@/workers/node/stream-hash';

/** What a file was like when it was hashed last: the system changes this whenever somebody writes to it. */
interface Look {
  sha256: string;
  stamp: string;
}

const MOST_LOOKS = 10_000;
const looks = new Map<string, Look>();

/**
 * The hash of a file as it is now. One that was not written to since it was hashed last is not read again.
 *
 * @throws AppError of a file that can't be read
 */
export async function currentHash(path: string, fileName: string): Promise<string> {
  const stamp = await stampOf(path);
  const known = looks.get(path);
  if (stamp !== undefined && known?.stamp === stamp) return known.sha256;
  const sha256 = await hashStream(createReadStream(path, { highWaterMark: 1 << 20 }), fileName);
  if (looks.size >= MOST_LOOKS) looks.clear();
  if (stamp !== undefined) looks.set(path, { sha256, stamp });
  return sha256;
}

async function stampOf(path: string): Promise<string | undefined> {
  const stats = await stat(path, { bigint: true }).catch(() => undefined);
  return stats && [stats.dev, stats.ino, stats.size, stats.mtimeNs, stats.ctimeNs].join(' ');
}
