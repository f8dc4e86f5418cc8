import type { Stats } from 'node:fs';
import { type FileHandle, open, stat } from 'node:fs/promises';
import { basename } from 'node:path';
import { AppError } from '@/core/errors/app-error';
import type { ByteSink, ByteSource } from '@/formats/bytes';

/** A file on disk as a source of bytes. Close it when done. */
export class FileSource implements ByteSource {
  private constructor(
    readonly size: number,
    readonly handle: FileHandle,
  ) {}

  /** @param fileName what a person calls the file, for errors */
  static async open(path: string, fileName = basename(path)): Promise<FileSource> {
    try {
      const handle = await open(path, 'r');
      const stats = await handle.stat();
      if (!stats.isFile()) {
        await handle.close();
        throw new AppError('file-unreadable', { fileName, reason: 'it is not a file' });
      }
      return new FileSource(stats.size, handle);
    } catch (error) {
      throw fileError(error, fileName, 'file-unreadable');
    }
  }

  async read(target: Uint8Array, offset: number): Promise<number> {
    let filled = 0;
    while (filled < target.length) {
      const { bytesRead } = await this.handle.read(target, filled, target.length - filled, offset + filled);
      if (bytesRead === 0) break;
      filled += bytesRead;
    }
    return filled;
  }

  close(): Promise<void> {
    return this.handle.close();
  }
}

/** A file's size and time, in our words where it is not there or not a file. */
export async function statFile(path: string, fileName: string): Promise<Stats> {
  const stats = await stat(path).catch((error) => {
    throw fileError(error, fileName, 'file-unreadable');
  });
  if (!stats.isFile()) throw new AppError('file-unreadable', { fileName, reason: 'it is not a file' });
  return stats;
}

/** A new file on disk, written from the beginning. It never replaces one that is there. */
export class FileSink implements ByteSink {
  private constructor(
    private readonly handle: FileHandle,
    private readonly fileName: string,
  ) {}

  static async create(path: string, fileName = basename(path)): Promise<FileSink> {
    try {
      return new FileSink(await open(path, 'wx'), fileName);
    } catch (error) {
      throw fileError(error, fileName, 'not-writable');
    }
  }

  async write(bytes: Uint8Array): Promise<void> {
    try {
      for (let at = 0; at < bytes.length; ) at += (await this.handle.write(bytes, at)).bytesWritten;
    } catch (error) {
      throw fileError(error, this.fileName, 'not-writable');
    }
  }

  /** Makes sure that every byte is on the disk, then closes. */
  async finish(): Promise<void> {
    try {
      await this.handle.sync();
    } catch (error) {
      throw fileError(error, this.fileName, 'not-writable');
    } finally {
      await this.handle.close();
    }
  }

  /** Closes without any promise about the bytes. */
  abandon(): Promise<void> {
    return this.handle.close();
  }
}

/** Writes bytes over those that stand in a file, and makes sure that they are on the disk. */
export async function patchFile(path: string, offset: number, bytes: Uint8Array): Promise<void> {
  const fileName = basename(path);
  try {
    const handle = await open(path, 'r+');
    try {
      await handle.write(bytes, 0, bytes.length, offset);
      await handle.sync();
    } finally {
      await handle.close();
    }
  } catch (error) {
    throw fileError(error, fileName, 'not-writable');
  }
}

const REASONS: Readonly<Record<string, string>> = {
  EACCES: 'permission denied',
  EPERM: 'permission denied',
  EISDIR: 'it is a folder',
  ENOTDIR: 'a part of its path is not a folder',
  ENAMETOOLONG: 'its name is too long for this disk',
  ENOSPC: 'the disk is full',
  EDQUOT: 'the disk quota is used up',
  EFBIG: 'it is larger than this disk or user may hold',
  EROFS: 'the disk is read-only',
  ENOENT: 'its folder does not exist',
};

/** A file system's error in our words. */
export function fileError(error: unknown, fileName: string, code: 'file-unreadable' | 'not-writable'): AppError {
  if (error instanceof AppError) return error;
  const systemCode = (error as NodeJS.ErrnoException)?.code ?? '';
  if (systemCode === 'ENOENT' && code === 'file-unreadable') {
    return new AppError('file-missing', { fileName }, { cause: error });
  }
  if (systemCode === 'EEXIST') return new AppError('file-exists', { fileName }, { cause: error });
  const reason = REASONS[systemCode] ?? (error instanceof Error ? error.message : String(error));
  return new AppError(code, { fileName, reason }, { cause: error });
}
