import * as z from 'zod';

/** More than a picture of 3000 × 3000 points has. */
export const MOST_COVER_BYTES = 10_000_000;

/** A picture that files carry. */
export const coverSchema = z.object({
  sha256: z.string().regex(/^[0-9a-f]{64}$/),
  mediaType: z.enum(['image/png', 'image/jpeg']),
  sizeBytes: z.int().positive().max(MOST_COVER_BYTES),
});
export type Cover = z.infer<typeof coverSchema>;

/** What kind of picture bytes begin as; undefined where it is none that players show. */
export function coverType(bytes: Uint8Array): Cover['mediaType'] | undefined {
  const begins = (...magic: number[]) => magic.every((byte, i) => bytes[i] === byte);
  if (begins(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a)) return 'image/png';
  return begins(0xff, 0xd8, 0xff) ? 'image/jpeg' : undefined;
}
