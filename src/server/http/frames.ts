import { AppError } from '@/core/errors/app-error';
import { framesMessages as messages } from './messages';

const MOST_BYTES = 4 << 20;

/** Frames that a page sends: of each so many channels, as 32-bit floats. Throws `bad-request` where they are not whole, or too many. */
export async function framesOf(request: Request, channels: number): Promise<Uint8Array<ArrayBuffer>> {
  const isTooLong = Number(request.headers.get('content-length') ?? Number.NaN) > MOST_BYTES;
  const bytes = isTooLong ? new Uint8Array(1) : new Uint8Array(await request.arrayBuffer());
  if (bytes.length > MOST_BYTES || bytes.length % (4 * channels) !== 0) {
    throw new AppError('bad-request', { reason: messages.notWhole });
  }
  return bytes;
}
