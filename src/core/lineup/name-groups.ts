/** Proposes, from files' names alone, which programmes belong together. A person decides. */
import { isMixName } from './stems/mix-name';

export const GROUP_KINDS = ['stems', 'chapters', 'versions'] as const;
export type GroupKind = (typeof GROUP_KINDS)[number];

export interface ProposedGroup {
  kind: GroupKind;
  name: string;
  /** Indices into the names, in the order of the group. */
  members: number[];
}

/** Words that name a stem of a mix, in file names of the trade (common practice, no source). */
const STEMS =
  /^(drums?|perc(ussion)?|bass|gtrs?|guitars?|keys|piano|synths?|strings|brass|horns|pads?|vox|vocals?|leads?|bgvs?|choirs?|fx|sfx|music|dialogue?|dx|narration|ambien(ce|t)|foley|effects|m&?e|instrumental)( ?\d+)?$/i;
/** A version: `v3`, `version 2`, `take 4`, `mix 5`. */
const VERSION = /^(?:v|ver|version|take|mix|rev)[ .]?(\d+)$/i;
/** A number in a row: `03`, `chapter 4`, `track 12`, `part 2`. */
const NUMBER = /^(?:ch|chap|chapter|track|part|episode|ep|piece|no|stop|station)?[ .]?(\d{1,3})$/i;

const WITHIN = /^(.*?)\s*\b(?:(?:ch|chap|chapter|track|part|episode|ep)\.?\s?)?(\d{1,3})\b/i;

/** Chapters need as many as this: two numbers may be anything. */
const LEAST_CHAPTERS = 3;

/**
 * Stems share a beginning and end with the name of a voice (`overture_bass`); their mix, if it is there, comes first. Chapters have a
 * number that is never the same twice (`Guide 03 The moon`, `03 The moon`), versions a mark (`overture_v2`). A file is in one group at most.
 *
 * @param names without their extensions
 */
export function proposeGroups(names: readonly string[]): ProposedGroup[] {
  const words = names.map(wordsOf);
  const taken = new Set<number>();
  const groups: ProposedGroup[] = [];
  const gather = (kind: GroupKind, least: number, keyOf: (words: string[]) => Key | undefined) => {
    const found = new Map<string, { name: string; members: { index: number; order: number }[] }>();
    words.forEach((parts, index) => {
      const key = taken.has(index) ? undefined : keyOf(parts);
      if (!key) return;
      const { name, order = index } = key;
      const group = found.get(name.toLowerCase()) ?? { name, members: [] };
      found.set(name.toLowerCase(), group);
      group.members.push({ index, order });
    });
    for (const { name, members } of found.values()) {
      const isDistinct = new Set(members.map(({ order }) => order)).size === members.length;
      if (members.length < least || !isDistinct) continue;
      members.sort((a, b) => a.order - b.order);
      groups.push({ kind, name, members: members.map(({ index }) => index) });
      for (const { index } of members) taken.add(index);
    }
  };
  gather('versions', 2, versionKey);
  gather('stems', 2, stemKey);
  for (const group of groups.filter(({ kind }) => kind === 'stems')) {
    const mix = words.findIndex((parts, index) => !taken.has(index) && isMixOf(group.name, parts));
    if (mix < 0) continue;
    group.members.unshift(mix);
    taken.add(mix);
  }
  gather('chapters', LEAST_CHAPTERS, chapterKey);
  return groups;
}

interface Key {
  name: string;
  /** Place in the group, where the name tells. */
  order?: number;
}

/** Named as the stems are, and as a mix: `overture` or `overture_mix`, with `overture_bass`. */
function isMixOf(name: string, parts: readonly string[]): boolean {
  const own = parts.join(' ').toLowerCase();
  const stem = name.toLowerCase();
  return own === stem || (own.startsWith(`${stem} `) && isMixName(own.slice(stem.length)));
}

/** Parts of a name between underscores, dashes and dots; a part may hold several words. */
function wordsOf(name: string): string[] {
  return name
    .split(/\s*[_–—]+\s*|\s+-\s+|-(?=\D)|(?<=\D)-/)
    .map((part) => part.trim())
    .filter((part) => part !== '');
}

function versionKey(parts: string[]): Key | undefined {
  const [, number] = VERSION.exec(parts.at(-1) ?? '') ?? [];
  const rest = parts.slice(0, -1).join(' ');
  if (number && rest) return { name: rest, order: Number(number) };
  // `Overture v2`, with nothing but a space.
  const [, name, , spaced] = /^(.+) (v|ver|version|take|mix|rev)[ .]?(\d+)$/i.exec(parts.join(' ')) ?? [];
  return name && spaced ? { name, order: Number(spaced) } : undefined;
}

function stemKey(parts: string[]): Key | undefined {
  const last = parts.at(-1) ?? '';
  if (parts.length > 1 && STEMS.test(last)) return { name: parts.slice(0, -1).join(' ') };
  const [, name, voice] = /^(.+) (\S+)$/.exec(parts.join(' ')) ?? [];
  return name && voice && STEMS.test(voice) ? { name } : undefined;
}

function chapterKey(parts: string[]): Key | undefined {
  for (const [i, part] of parts.entries()) {
    const [, number] = NUMBER.exec(part) ?? [];
    if (number) return { name: parts.slice(0, i).join(' ') || 'Chapters', order: Number(number) };
    // `Guide 03 The moon`, `Guide ch3` and `03 The moon`: a number among the words, with or without its own word.
    const [, before = '', within] = WITHIN.exec(part) ?? [];
    if (within) {
      const name = [...parts.slice(0, i), before.trim()];
      return { name: name.filter(Boolean).join(' ') || 'Chapters', order: Number(within) };
    }
  }
  return undefined;
}
