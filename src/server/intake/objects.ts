import { createWriteStream } from 'node:fs';
import { mkdir, rename, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { AppError } from '@/core/errors/app-error';
import { flush } from '@/workers/node/place-file';
import type { ServerContext } from '../context';
import { objectsMessages as messages } from './messages';

/** A part of an object, as its Content-Range says. */
export interface PartRange {
  start: number;
  /** After its last byte. */
  end: number;
  sizeBytes: number;
}

/** Throws `bad-request` where it is none. */
export function parsePartRange(header: string | null): PartRange {
  const [, first, last, size] = (/^bytes (\d{1,15})-(\d{1,15})\/(\d{1,15})$/.exec(header ?? '') ?? []).map(Number);
  if (first === undefined || last === undefined || size === undefined || last < first || last >= size) {
    throw new AppError('bad-request', { reason: messages.contentRangeNeeded });
  }
  return { start: first, end: last + 1, sizeBytes: size };
}

/** Bytes of an object that have arrived; 0 where none have. */
export async function receivedOf(
  { folder }: ServerContext,
  intakeId: string,
  key: string,
  name: string,
): Promise<number> {
  const path = join(folder.intake(intakeId, key), name);
  const whole = await stat(path).catch(() => undefined);
  return whole?.size ?? (await stat(`${path}.coming`).catch(() => undefined))?.size ?? 0;
}

/**
 * Takes in a part of an object from where the last one ended; one that has arrived already is passed over. The object has its name
 * once it is whole, and is not written again.
 *
 * @param most bytes to take of it before the connection breaks off; undefined for all
 * @returns bytes of it that have arrived
 */
export async function receivePart(
  server: ServerContext,
  place: { intakeId: string; key: string; name: string },
  { start, end, sizeBytes }: PartRange,
  body: ReadableStream<Uint8Array> | null,
  most = Number.POSITIVE_INFINITY,
): Promise<number> {
  const { intakeId, key, name } = place;
  const folder = server.folder.intake(intakeId, key);
  const coming = join(folder, `${name}.coming`);
  const received = await receivedOf(server, intakeId, key, name);
  if (received < end && received < sizeBytes) {
    if (start !== received) throw new AppError('out-of-step', { fileName: name, received, start });
    if (!body) throw new AppError('bad-request', { reason: messages.emptyPart });
    await mkdir(folder, { recursive: true });
    let left = Math.min(most, end - start);
    const limited = async function* (chunks: AsyncIterable<Uint8Array>) {
      for await (const chunk of chunks) {
        yield chunk.subarray(0, left);
        left -= Math.min(left, chunk.length);
        if (left === 0) return;
      }
    };
    await pipeline(Readable.fromWeb(body as never), limited, createWriteStream(coming, { flags: 'a' }));
  }
  // Also what had come whole before, and could not be given its name then.
  const size = (await stat(coming).catch(() => undefined))?.size;
  if (size === undefined) return receivedOf(server, intakeId, key, name);
  if (size === sizeBytes) {
    await flush(coming);
    await rename(coming, join(folder, name));
  }
  return size;
}
