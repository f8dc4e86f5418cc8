import { createWriteStream } from 'node:fs';
import { pipeline } from 'node:stream/promises';
import yauzl, { type Entry, type ZipFile } from 'yauzl';
import { AppError } from '@/core/errors/app-error';
import { hashFile } from '@/workers/node/hash-file';
import { flush } from '@/workers/node/place-file';
import { parseBounded } from '../bounded-json';
import type { ServerContext } from '../context';
import { freeBytes } from '../storage/free-space';
import { coversOf, filesOf, type Manifest, manifestSchema, recordFilesOf } from './archive-manifest';
import { jobZipMessages as messages } from './messages';

const MOST_MANIFEST_BYTES = 64_000_000;
const MOST_ENTRIES = 20_000;

/** A ZIP and what is in it, by name. */
export interface OpenZip {
  file: ZipFile;
  entries: Map<string, Entry>;
}

/** Lists a ZIP's entries. The package refuses names that are paths elsewhere, and streams longer than they say. */
export async function openZip(path: string, fileName: string): Promise<OpenZip> {
  const refuse = (cause: unknown) => {
    const reason = `as a ZIP it is damaged (${cause instanceof Error ? cause.message : cause})`;
    return new AppError('not-a-job', { fileName, reason }, { cause });
  };
  const options = { lazyEntries: true, autoClose: false, strictFileNames: true };
  const file = await yauzl.openPromise(path, options).catch((error) => {
    throw refuse(error);
  });
  try {
    const entries = new Map<string, Entry>();
    for await (const entry of file.eachEntry()) {
      if (entries.has(entry.fileName) || entries.size >= MOST_ENTRIES) throw new Error('too many files, or one twice');
      entries.set(entry.fileName, entry);
    }
    return { file, entries };
  } catch (error) {
    file.close();
    throw refuse(error);
  }
}

/** Throws `not-a-job`. */
export async function readManifest({ file, entries }: OpenZip, fileName: string): Promise<Manifest> {
  const entry = entries.get('manifest.json');
  if (!entry || entry.uncompressedSize > MOST_MANIFEST_BYTES) {
    throw new AppError('not-a-job', { fileName, reason: messages.noManifest });
  }
  const pieces: Buffer[] = [];
  for await (const piece of await file.openReadStreamPromise(entry)) pieces.push(piece as Buffer);
  try {
    return manifestSchema.parse(parseBounded(Buffer.concat(pieces).toString('utf8')));
  } catch (error) {
    throw new AppError('not-a-job', { fileName, reason: messages.unreadableManifest }, { cause: error });
  }
}

/** Everything that the manifest speaks of must be there at its size, nothing else, and there must be room for it. */
export async function checkEntries(
  { folder }: ServerContext,
  entries: ReadonlyMap<string, Entry>,
  manifest: Manifest,
  fileName: string,
): Promise<void> {
  const refuse = (reason: string) => new AppError('not-a-job', { fileName, reason });
  const written = manifest.programmes.flatMap((programme) => programme.deliveries.flatMap(filesOf));
  const covers = coversOf(manifest);
  const records = recordFilesOf(manifest);
  const expected = new Map<string, number>([
    ...manifest.sources.map(({ sha256, sizeBytes }) => [`sources/${sha256}`, sizeBytes] as const),
    ...written.map((delivery) => [`deliveries/${delivery.fileName}`, delivery.sizeBytes] as const),
    ...records.map(({ entry, sizeBytes }) => [entry, sizeBytes] as const),
    ...[...covers.values()].map((cover) => [`covers/${cover.sha256}`, cover.sizeBytes] as const),
  ]);
  const isComplete = expected.size === manifest.sources.length + written.length + covers.size + records.length;
  if (!isComplete) throw refuse(messages.namedTwice);
  for (const [name, sizeBytes] of expected) {
    if (entries.get(name)?.uncompressedSize !== sizeBytes) throw refuse(messages.missing(name));
  }
  for (const name of entries.keys()) {
    if (name !== 'manifest.json' && !expected.has(name)) throw refuse(messages.unexpected(name));
  }
  const shas = new Set(manifest.sources.map(({ sha256 }) => sha256));
  const own = manifest.programmes.map(({ sourceSha256 }) => sourceSha256);
  if (own.some((sha256) => !shas.has(sha256)) || new Set(own).size !== own.length) {
    throw refuse(messages.noMatch);
  }
  const needed = [...expected.values()].reduce((sum, size) => sum + size, 0);
  if (needed > (await freeBytes(folder.root))) throw refuse(messages.diskFull);
}

/** Takes an entry out of the ZIP, flushed, and holds it to its hash. */
export async function extract(
  { file, entries }: OpenZip,
  name: string,
  path: string,
  sha256: string,
  fileName: string,
) {
  const stream = await file.openReadStreamPromise(entries.get(name) as Entry);
  await pipeline(stream, createWriteStream(path, { flags: 'wx' }));
  await flush(path);
  if ((await hashFile(path)) !== sha256) {
    throw new AppError('not-a-job', { fileName, reason: messages.changed(name) });
  }
}
