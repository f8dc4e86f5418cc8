import { type Cover, coverType, MOST_COVER_BYTES } from '@/core/delivery/cover';
import { AppError } from '@/core/errors/app-error';
import { pictureMessages as messages } from './messages';

/** Of a side; players refuse larger ones, or take all their memory for them. */
const MOST_PIXELS_OF_SIDE = 8000;

/**
 * Decodes a picture, to the last of its rows. Throws `not-a-picture` where it is none that players show, is damaged, or larger than they take.
 *
 * @param bytes at most `MOST_COVER_BYTES`
 */
export async function checkPicture(bytes: Uint8Array): Promise<Cover['mediaType']> {
  const refuse = (reason: string, cause?: unknown) => new AppError('not-a-picture', { reason }, { cause });
  if (bytes.length > MOST_COVER_BYTES) throw refuse(messages.tooLarge(MOST_COVER_BYTES / 1e6));
  const mediaType = coverType(bytes);
  if (!mediaType) throw refuse(messages.notAPicture);
  // Loaded where there is a picture: it takes longer than most of what the command does.
  const { default: sharp } = await import('sharp');
  const picture = sharp(bytes, { failOn: 'truncated', limitInputPixels: MOST_PIXELS_OF_SIDE ** 2 });
  try {
    const { width, height, format } = await picture.metadata();
    if (format !== mediaType.slice('image/'.length)) throw refuse(messages.notAPicture);
    if (Math.max(width, height) > MOST_PIXELS_OF_SIDE)
      throw refuse(messages.tooWide(width, height, MOST_PIXELS_OF_SIDE));
    await picture.stats();
  } catch (error) {
    throw error instanceof AppError ? error : refuse(messages.damaged, error);
  }
  return mediaType;
}
