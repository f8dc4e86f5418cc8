/** What a template can say of a delivery. */
export interface NameFields {
  title: string;
  spec: string;
  /** In Hz. */
  rate: number;
  version: number;
  job: string;
  /** Such as `24bit`, `192k`. */
  format: string;
  /** Such as `24bit`, `32float`; empty of a lossy file. */
  depth: string;
  /** Place in the job, counted from 1. */
  track: number;
}

export const NAME_FIELDS = [
  'title',
  'spec',
  'rate',
  'version',
  'job',
  'format',
  'depth',
  'track',
] as const satisfies readonly (keyof NameFields)[];

export const DEFAULT_TEMPLATE = '{title}_{spec}_v{version}';

/** 255 bytes is the least that file systems take: this leaves room for a channel, a number, and a name while it is written. */
const MOST_BYTES = 200;

/** Names that one file system or another keeps to itself, whatever their extension. */
const RESERVED = /^(con|prn|aux|nul|com\d|lpt\d)$/i;

/**
 * A file's name, without its extension, from a template such as `{title}_{spec}_{rate}_{version}`: letters of any script,
 * digits, dots, hyphens and underscores, so that every file system takes it. A field that is not known stays out. Where there are slashes,
 * what is ahead of the last are folders.
 */
export function fileStem(template: string, fields: NameFields): string {
  return stemOf(template.slice(template.lastIndexOf('/') + 1), fields);
}

/** The folders that a template puts a file into where it is handed over, from the outermost; none of most. */
export function foldersOf(template: string, fields: NameFields): string[] {
  return template
    .split('/')
    .slice(0, -1)
    .filter((part) => part.trim() !== '')
    .map((part) => stemOf(part, fields));
}

function stemOf(template: string, fields: NameFields): string {
  const filled = template.replaceAll(/\{(\w+)\}/g, (_, name: string) => {
    if (name === 'rate') return rateText(fields.rate);
    const text = Object.hasOwn(fields, name) ? String(fields[name as keyof NameFields]) : '';
    return text === '' ? '' : slug(text);
  });
  const plain = trimmed(filled.normalize('NFC').replaceAll(/[^\p{L}\p{N}._-]+/gu, '-'));
  const stem = trimmed(withinBytes(plain, MOST_BYTES));
  return stem === '' || RESERVED.test(stem.split('.')[0] ?? '') ? `delivery-${stem}`.replace(/-$/, '') : stem;
}

/** What a format says in a name. */
export function formatFields({
  bitDepth,
  bitRateKbps,
}: {
  bitDepth: number | null;
  bitRateKbps: number | null;
}): Pick<NameFields, 'format' | 'depth'> {
  if (bitDepth === null) return { format: bitRateKbps === null ? 'as-coded' : `${bitRateKbps}k`, depth: '' };
  return { format: `${bitDepth}bit`, depth: bitDepth === 32 ? '32float' : `${bitDepth}bit` };
}

/** Names in a template that stand for nothing. */
export function unknownFields(template: string): string[] {
  return [...template.matchAll(/\{(\w*)\}/g)]
    .map(([, name]) => name ?? '')
    .filter((name) => !NAME_FIELDS.some((known) => known === name));
}

/** A part of a name that every file system takes: letters of any script in lower case, digits, hyphens and underscores. */
export function slug(text: string): string {
  const slugged = text
    .normalize('NFC')
    .toLowerCase()
    .replace(/[^\p{L}\p{N}_]+/gu, '-')
    .replace(/^[-_]+|[-_]+$/g, '');
  // Four bytes are the most that a character needs.
  return [...slugged].slice(0, 40).join('') || 'programme';
}

function trimmed(name: string): string {
  return name.replaceAll(/^[-._]+|[-._]+$/g, '');
}

function withinBytes(text: string, most: number): string {
  const encoder = new TextEncoder();
  const characters = [...text];
  while (encoder.encode(characters.join('')).length > most) characters.pop();
  return characters.join('');
}

/** Such as `48k`, `44k1`: a dot would pass for an extension. */
function rateText(rateHz: number): string {
  const [whole, part] = String(rateHz / 1000).split('.');
  return `${whole}k${part ?? ''}`;
}
