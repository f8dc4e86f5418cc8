import { createReadStream } from 'node:fs';
import { rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import type { Readable } from 'node:stream';
import { AppError } from '@/core/errors/app-error';
import { FILE_FORMATS, kindOfName } from '@/core/file-formats/file-formats';
import { filmFormatOfName } from '@/core/film/film-formats';
import { isSheet } from '@/core/lineup/assembly';
import type { ServerContext } from '../context';
import type { ServedFile } from '../http/file';
import { webStream } from '../http/web-stream';
import { currentHash } from '../storage/intact';
import { zipOf } from '../storage/zip-of';
import { advanceAssembly, assemblyOf } from './assembly-record';

const SHEET_TYPES: Readonly<Record<string, string>> = {
  cue: 'application/x-cue',
  csv: 'text/csv; charset=utf-8',
  pdf: 'application/pdf',
  json: 'application/json',
};

/** A file of a record, as it is downloaded. Throws `not-found` until it is written whole, and `delivery-altered`. */
export async function downloadAssembled(server: ServerContext, assemblyId: string, index: number): Promise<ServedFile> {
  const { files, folder } = writtenFiles(server, assemblyId);
  const file = files[index];
  if (!file) throw new AppError('not-found', { what: 'file' });
  const { fileName, sha256 } = file;
  const path = join(folder, fileName);
  if ((await currentHash(path, fileName)) !== sha256) throw new AppError('delivery-altered', { fileName });
  const { size } = await stat(path);
  const kind = kindOfName(fileName);
  const film = filmFormatOfName(fileName);
  const extension = fileName.slice(fileName.lastIndexOf('.') + 1);
  return {
    fileName,
    mediaType: film?.mediaType ?? (kind ? FILE_FORMATS[kind].mediaType : (SHEET_TYPES[extension] ?? 'text/plain')),
    sizeBytes: size,
    stream: (part) => webStream(createReadStream(path, part)),
  };
}

/** All files of a record as one ZIP, streamed. Throws as `downloadAssembled`. */
export async function zipAssembled(
  server: ServerContext,
  assemblyId: string,
): Promise<{ fileName: string; body: Readable }> {
  const { files, folder, folderName } = writtenFiles(server, assemblyId);
  const body = await zipOf(
    files.map(({ fileName, sha256, role }) => ({
      path: join(folder, fileName),
      name: `${folderName}/${fileName}`,
      sha256,
      isAudio: !isSheet(role),
    })),
  );
  return { fileName: `${folderName}.zip`, body };
}

/** Throws the files of a record away. Throws `not-found` where they are not there. */
export async function discardAssembly(server: ServerContext, assemblyId: string): Promise<void> {
  const { folder } = writtenFiles(server, assemblyId);
  advanceAssembly(server, assemblyId, 'discarded');
  await rm(folder, { recursive: true, force: true });
}

function writtenFiles(server: ServerContext, assemblyId: string) {
  const { state, jobId, folderName, outcome } = assemblyOf(server, assemblyId);
  if (state !== 'written' || !outcome) throw new AppError('not-found', { what: 'record' });
  return { files: outcome.files, folderName, folder: server.folder.record(jobId, folderName) };
}
