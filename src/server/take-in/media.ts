/** Folders of this machine that files may be taken in from where they lie: those that OPSIMETER_MEDIA names. */
import { readdir, realpath, stat } from 'node:fs/promises';
import { basename, join, relative, sep } from 'node:path';
import { AppError } from '@/core/errors/app-error';
import { fileError } from '@/workers/node/file-bytes';
import { isWithin, type NamedFolder, namedFolders } from '../storage/within';

export interface MediaFolder {
  /** From the root, with `/` between; empty for the root itself. */
  path: string;
  folders: string[];
  files: { name: string; sizeBytes: number }[];
}

const MOST_ENTRIES = 2000;

/** The folders named, by the names that people see. */
export function mediaRoots(named = process.env.OPSIMETER_MEDIA): NamedFolder[] {
  return namedFolders(named);
}

/** What is in a folder below a root, by name; what leads out of the root is left out. */
export async function listMedia(root: number, path: string): Promise<MediaFolder> {
  const { folder, base } = await inside(root, path);
  const listed: MediaFolder = { path: relative(base, folder).split(sep).join('/'), folders: [], files: [] };
  const names = await readdir(folder).catch((error) => {
    throw fileError(error, basename(folder), 'file-unreadable');
  });
  for (const name of names.filter((entry) => !entry.startsWith('.')).slice(0, MOST_ENTRIES)) {
    const real = await realpath(join(folder, name)).catch(() => undefined);
    if (real === undefined || !isWithin(real, base)) continue;
    const stats = await stat(real).catch(() => undefined);
    if (stats?.isDirectory()) listed.folders.push(name);
    else if (stats?.isFile()) listed.files.push({ name, sizeBytes: stats.size });
  }
  const { compare } = new Intl.Collator('en', { numeric: true });
  listed.folders.sort(compare);
  listed.files.sort((a, b) => compare(a.name, b.name));
  return listed;
}

/** The real path of something below a root. Throws `outside-media` where it is not, whatever links lead there. */
export async function mediaPath(root: number, path: string): Promise<string> {
  return (await inside(root, path)).folder;
}

async function inside(root: number, path: string): Promise<{ folder: string; base: string }> {
  const named = mediaRoots()[root];
  if (!named || path.includes('\0')) throw new AppError('outside-media', { path });
  try {
    const base = await realpath(named.path);
    const folder = await realpath(join(base, path));
    if (!isWithin(folder, base)) throw new AppError('outside-media', { path });
    return { folder, base };
  } catch (error) {
    throw fileError(error, path || named.name, 'file-unreadable');
  }
}
