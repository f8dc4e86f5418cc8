import { createReadStream, createWriteStream } from 'node:fs';
import { mkdir, readFile, rename, stat, writeFile } from 'node:fs/promises';
import { isAbsolute, join, resolve } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { AppError } from '@/core/errors/app-error';
import { receiverAnswerSchema } from '@/core/receiver/manifest';
import { flush } from '@/workers/node/place-file';
import { isWithin, type NamedFolder, namedFolders } from '../../storage/within';
import { dropFolderMessages as messages } from '../messages';
import { type Transport, type TransportContext, unreached } from '../transport';

/** Put last: what is in the folder before it is still on its way. */
export const MANIFEST_NAME = 'delivery.json';
export const ANSWER_NAME = 'answer.json';

/** Not a name that a sweep of this app's own data takes for a leftover: an interrupted transfer resumes from it. */
const COMING = '.coming';

/** Folders of this machine that receivers may be given a place in: those that OPSIMETER_DROP_FOLDERS names. */
export function dropFolders(named = process.env.OPSIMETER_DROP_FOLDERS): NamedFolder[] {
  return namedFolders(named);
}

/** A folder of their own for each transfer, in a folder that its owner looks into. */
export const dropFolder: Transport = {
  kind: 'drop-folder',
  name: 'drop folder',
  words: 'Files are put into a folder, and its owner’s answer is read from there.',
  place: 'folder',
  placeholder: '/mnt/playout/in',
  isSigned: false,
  isFetchedFrom: false,
  addressProblem: (address) => {
    if (!isAbsolute(address)) return messages.fullPath;
    const folders = dropFolders();
    const isNamed = folders.some(({ path }) => isWithin(resolve(/*turbopackIgnore: true*/ address), path));
    return isNamed ? undefined : messages.outside(folders.map(({ path }) => path));
  },

  async transfer({ address }, { manifest, paths }, context) {
    try {
      // The folder itself is its owner's: where it is not there, its disk may be away.
      await stat(address);
      const folder = join(address, manifest.key);
      await mkdir(folder, { recursive: true });
      let before = 0;
      for (const [i, { fileName, sizeBytes }] of manifest.files.entries()) {
        const target = join(folder, fileName);
        if ((await sizeOf(target)) !== sizeBytes) {
          await copy(paths[i] as string, target, context, before);
        }
        before += sizeBytes;
        context.onBytes(before);
      }
      await writeWhole(join(folder, MANIFEST_NAME), JSON.stringify(manifest));
    } catch (error) {
      throw context.signal.aborted ? new AppError('cancelled', {}) : unreached(error);
    }
  },

  async answer({ address }, key) {
    const folder = join(address, key);
    try {
      await stat(address);
      if ((await sizeOf(join(folder, MANIFEST_NAME))) === undefined) return undefined;
      if ((await sizeOf(join(folder, ANSWER_NAME))) === undefined) return { state: 'received', reasons: [] };
      const text = await readFile(join(folder, ANSWER_NAME), 'utf8');
      return receiverAnswerSchema.parse(JSON.parse(text));
    } catch (error) {
      throw unreached(error);
    }
  },
};

/** Written under another name, flushed, and only then called what it is: nobody sees half of it. */
export async function writeWhole(path: string, text: string): Promise<void> {
  await writeFile(`${path}${COMING}`, text);
  await flush(`${path}${COMING}`);
  await rename(`${path}${COMING}`, path);
}

async function copy(from: string, to: string, { signal, onBytes }: TransportContext, before: number): Promise<void> {
  const coming = `${to}${COMING}`;
  const start = (await sizeOf(coming)) ?? 0;
  const source = createReadStream(from, { start, highWaterMark: 1 << 20 });
  let bytes = before + start;
  source.on('data', (chunk) => {
    bytes += chunk.length;
    onBytes(bytes);
  });
  await pipeline(source, createWriteStream(coming, { flags: start > 0 ? 'a' : 'w' }), { signal });
  await flush(coming);
  await rename(coming, to);
}

async function sizeOf(path: string): Promise<number | undefined> {
  return (await stat(path).catch(() => undefined))?.size;
}
