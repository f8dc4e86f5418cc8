import { basename } from 'node:path';
import { PassThrough, type Readable } from 'node:stream';
import yazl from 'yazl';
import { AppError } from '@/core/errors/app-error';
import { currentHash } from './intact';

/** A written file, and its place in a ZIP or a folder. */
export interface PlacedFile {
  path: string;
  name: string;
  sha256: string;
  /** Not worth compressing. */
  isAudio: boolean;
}

/** A text or a PDF that is made to go with them. */
export interface MadeFile {
  name: string;
  bytes: Buffer;
}

/** Written files, and what is made to go with them, as one ZIP, streamed. Throws `delivery-altered` where one is not what was written, and `file-missing`. */
export async function zipOf(files: readonly PlacedFile[], made: readonly MadeFile[] = []): Promise<Readable> {
  const zip = new yazl.ZipFile();
  for (const { path, name, sha256, isAudio } of files) {
    const fileName = basename(name);
    if ((await currentHash(path, fileName)) !== sha256) throw new AppError('delivery-altered', { fileName });
    zip.addFile(path, name, { compress: !isAudio });
  }
  for (const { name, bytes } of made) zip.addBuffer(bytes, name);
  const body = new PassThrough();
  zip.on('error', (error) => body.destroy(error as Error));
  zip.outputStream.pipe(body);
  zip.end();
  return body;
}
