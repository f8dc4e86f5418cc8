import * as z from 'zod';
import type { Tags } from '../file-formats/tags';
import { bookMessages as messages } from './messages';
import { plainName } from './track-name';

/** What the name of a chapter's file can tell. */
const CHAPTER_FIELDS = ['number', 'title', 'book', 'author'] as const;
type ChapterField = (typeof CHAPTER_FIELDS)[number];

const USUAL_CHAPTER_NAME = '{number} {title}';

/** A retail sample lasts 1 to 5 minutes (common practice of audiobook shops, no source). */
export const LEAST_SAMPLE_SECONDS = 60;
export const MOST_SAMPLE_SECONDS = 300;

/** A name is no longer than this; its texts are shortened alike. */
const MOST_NAME_CHARACTERS = 60;
const FEWEST_TEXT_CHARACTERS = 8;

const namePatternSchema = z
  .string()
  .trim()
  .max(120)
  .refine((pattern) => pattern.includes('{number}'), messages.numberMissing)
  .refine((pattern) => unknownFields(pattern).length === 0, {
    error: ({ input }) => messages.unknownField(unknownFields(String(input))[0] ?? ''),
  });

/** What holds for a book as a whole. */
export const bookSettings = z.object({
  /** The first programme is its opening credits, and the last its closing credits. */
  hasOpeningCredits: z.boolean().default(false),
  hasClosingCredits: z.boolean().default(false),
  /** How the files of its chapters are named. */
  chapterName: namePatternSchema.default(USUAL_CHAPTER_NAME),
  /** A span of one of its programmes, in seconds of its source; null where none is written. */
  sample: z
    .object({
      programmeId: z.string().min(1).max(64),
      startSeconds: z.number().min(0),
      seconds: z.number().min(LEAST_SAMPLE_SECONDS).max(MOST_SAMPLE_SECONDS),
    })
    .nullable()
    .default(null),
});
export type BookSettings = z.infer<typeof bookSettings>;
export const USUAL_BOOK: BookSettings = bookSettings.parse({});

/** What the chapters of a book are called: its credits by what they are, all else by their own titles. */
export function chapterTitles(
  { hasOpeningCredits, hasClosingCredits }: Pick<BookSettings, 'hasOpeningCredits' | 'hasClosingCredits'>,
  titles: readonly string[],
): string[] {
  return titles.map((title, i) => {
    if (hasOpeningCredits && i === 0) return messages.openingCredits;
    return hasClosingCredits && i > 0 && i === titles.length - 1 ? messages.closingCredits : title;
  });
}

/**
 * The names of a book's files, in order and without extension. Opening credits are number 0, so that chapters begin at 1; closing credits
 * follow the last chapter.
 *
 * @returns names that differ in their numbers, as every file system takes them, of at most 60 characters
 */
export function chapterNames(
  { chapterName, ...credits }: Pick<BookSettings, 'chapterName' | 'hasOpeningCredits' | 'hasClosingCredits'>,
  book: { title: string; author: string },
  titles: readonly string[],
): string[] {
  const first = credits.hasOpeningCredits ? 0 : 1;
  const digits = Math.max(2, String(first + titles.length - 1).length);
  return chapterTitles(credits, titles).map((title, i) => {
    const number = String(first + i).padStart(digits, '0');
    const texts = { number, title, book: book.title, author: book.author };
    const whole = filled(chapterName, texts);
    if ([...whole].length <= MOST_NAME_CHARACTERS) return plainName(whole);
    const fixed = [...filled(chapterName, { number, title: '', book: '', author: '' })].length;
    const fields = [...chapterName.matchAll(/\{(title|book|author)\}/g)].length;
    const most = Math.max(FEWEST_TEXT_CHARACTERS, Math.floor((MOST_NAME_CHARACTERS - fixed) / fields));
    const cut = (text: string) => [...text].slice(0, most).join('').trim();
    return plainName(
      filled(chapterName, { number, title: cut(title), book: cut(book.title), author: cut(book.author) }),
    );
  });
}

/** The name of a book's retail sample, without an extension. */
export function sampleName(title: string): string {
  return `${plainName(title)} - sample`;
}

/** What a chapter's file says of itself: its own tags, and those of the book where it has none. */
export function chapterTags(
  own: Tags,
  book: { title: string; author: string; chapters: number },
  { place, title }: { place: number; title: string },
): Tags {
  return {
    ...own,
    title: own.title || title,
    artist: own.artist || book.author,
    album: own.album || book.title,
    track: own.track || `${place}/${book.chapters}`,
  };
}

function filled(pattern: string, texts: Record<ChapterField, string>): string {
  return pattern.replaceAll(/\{(\w+)\}/g, (_, field: string) => texts[field as ChapterField] ?? '');
}

function unknownFields(pattern: string): string[] {
  const named = [...pattern.matchAll(/\{(\w*)\}/g)].map(([, field]) => field ?? '');
  return named.filter((field) => !CHAPTER_FIELDS.some((known) => known === field));
}
