import * as z from 'zod';

/** ISO 3901: country, registrant, two digits of the year, five of the recording; hyphens are for reading only. */
const ISRC = /^[A-Z]{2}[A-Z0-9]{3}\d{7}$/;

/** An ISRC as it is stored, twelve characters, or undefined where it is none. */
export function parseIsrc(text: string): string | undefined {
  const plain = text.replaceAll(/[-\s]/g, '').toUpperCase();
  return ISRC.test(plain) ? plain : undefined;
}

/** As it is read: CC-XXX-YY-NNNNN. */
export function formatIsrc(isrc: string): string {
  return `${isrc.slice(0, 2)}-${isrc.slice(2, 5)}-${isrc.slice(5, 7)}-${isrc.slice(7)}`;
}

const short = z.string().trim().max(500).default('');

/** What a file says of itself. Empty text is left out. */
export const tagsSchema = z.object({
  title: short,
  artist: short,
  album: short,
  /** Such as `3` or `3/8`. */
  track: z
    .string()
    .trim()
    .regex(/^(\d{1,4}(\/\d{1,4})?)?$/, 'A track is a number, such as 3 or 3/8')
    .default(''),
  year: z
    .string()
    .trim()
    .regex(/^(\d{4})?$/, 'A year has four digits')
    .default(''),
  genre: short,
  comment: z.string().trim().max(4000).default(''),
  isrc: z
    .string()
    .trim()
    .refine((text) => text === '' || parseIsrc(text) !== undefined, 'An ISRC has twelve characters: CC-XXX-YY-NNNNN')
    .transform((text) => parseIsrc(text) ?? '')
    .default(''),
});
export type Tags = z.infer<typeof tagsSchema>;

export const NO_TAGS: Tags = tagsSchema.parse({});
