import { NO_TAGS, parseIsrc, type Tags } from '@/core/file-formats/tags';
import type { Metadata } from './metadata';

/** What containers and libraries call each tag, in small letters. */
const NAMES: Readonly<Record<keyof Tags, readonly string[]>> = {
  title: ['title'],
  artist: ['artist', 'author'],
  album: ['album'],
  track: ['track', 'tracknumber'],
  year: ['year', 'date', 'recorded'],
  genre: ['genre'],
  comment: ['comment', 'description'],
  isrc: ['isrc', 'tsrc'],
};

/** What a file says of itself, as far as a spec can ask for it; empty text where it says nothing. */
export function statedTags({ tags }: Metadata): Tags {
  const stated = { ...NO_TAGS };
  for (const key of Object.keys(NAMES) as (keyof Tags)[]) {
    const found = NAMES[key].flatMap((name) => tags.find((tag) => tag.name.toLowerCase() === name)?.value ?? []);
    stated[key] = found[0] ?? '';
  }
  return {
    ...stated,
    isrc: parseIsrc(stated.isrc.replace(/^ISRC:/i, '')) ?? '',
    year: /\d{4}/.exec(stated.year)?.[0] ?? '',
  };
}
