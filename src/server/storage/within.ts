import { realpath } from 'node:fs/promises';
import { basename, delimiter, resolve, sep } from 'node:path';

export interface NamedFolder {
  /** As people see it. */
  name: string;
  path: string;
}

/** The folders that a setting names, with the separator of paths of this system between. */
export function namedFolders(setting: string | undefined): NamedFolder[] {
  return (setting ?? '')
    .split(delimiter)
    .filter((path) => path !== '')
    .map((path) => ({ name: basename(path) || path, path: resolve(/*turbopackIgnore: true*/ path) }));
}

export function isWithin(path: string, base: string): boolean {
  return path === base || path.startsWith(base.endsWith(sep) ? base : base + sep);
}

/** Whether a path is in one of some folders, whatever links lead there. What is not there is where its name says. */
export async function isReallyWithin(path: string, folders: readonly NamedFolder[]): Promise<boolean> {
  const real = await realpath(path).catch(() => resolve(path));
  const bases = await Promise.all(folders.map((folder) => realpath(folder.path).catch(() => folder.path)));
  return bases.some((base) => isWithin(real, base));
}
