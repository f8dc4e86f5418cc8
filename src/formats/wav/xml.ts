/** The iXML (2.x, from memory) that WAV files carry. */
import { XMLParser } from 'fast-xml-parser';
import { countingOf, type TimeCodeRate, timeCodeRateOf } from '@/core/units/time-code';
import { addTag, type Metadata } from '../metadata';

const parser = new XMLParser({
  parseTagValue: false,
  parseAttributeValue: false,
  processEntities: false,
  ignoreAttributes: false,
  attributeNamePrefix: '',
  removeNSPrefix: true,
});

type Node = { [name: string]: unknown };

/** What iXML says in plain fields: they are read to the tags, the names of its tracks among them. */
const IXML_FIELDS = {
  PROJECT: 'Project',
  SCENE: 'Scene',
  TAKE: 'Take',
  TAPE: 'Tape',
  CIRCLED: 'Circled',
  NOTE: 'Note',
} as const;

/**
 * XML that can't be parsed says nothing; it is still listed among the chunks.
 *
 * @returns the rate that time code is counted at, where it says so
 */
export function readIxml(text: string, metadata: Metadata): TimeCodeRate | undefined {
  const root = nodeAt(parse(text), 'BWFXML');
  for (const [field, name] of Object.entries(IXML_FIELDS)) addTag(metadata, name, wordsOf(root[field]));
  for (const track of listOf(nodeAt(root, 'TRACK_LIST').TRACK)) {
    addTag(
      metadata,
      `Track ${wordsOf(track.CHANNEL_INDEX)}`,
      [wordsOf(track.NAME), wordsOf(track.FUNCTION)].filter(Boolean).join(', '),
    );
  }
  const speed = nodeAt(root, 'SPEED');
  addTag(metadata, 'Frame rate', wordsOf(speed.TIMECODE_RATE));
  const low = Number(wordsOf(speed.TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_LO) || Number.NaN);
  const high = Number(wordsOf(speed.TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_HI) || 0);
  if (Number.isInteger(low) && Number.isInteger(high)) metadata.timeReferenceFrames ??= high * 2 ** 32 + low;
  const [, numerator, denominator] = /^(\d+)\/(\d+)$/.exec(wordsOf(speed.TIMECODE_RATE)) ?? [];
  return timeCodeRateOf(Number(numerator) / Number(denominator), wordsOf(speed.TIMECODE_FLAG) === 'DF');
}

/**
 * An iXML chunk that says at which rate time code is counted, and when the sound begins: location recorders state it so, and editing programs
 * read it. No more is said of what is not known.
 *
 * @param timeReferenceFrames frames after midnight
 */
export function ixmlOf(rate: TimeCodeRate, timeReferenceFrames: number): Uint8Array {
  const { numerator, denominator, isDropFrame } = countingOf(rate);
  const high = Math.floor(timeReferenceFrames / 2 ** 32);
  const speed = [
    `<TIMECODE_RATE>${numerator}/${denominator}</TIMECODE_RATE>`,
    `<TIMECODE_FLAG>${isDropFrame ? 'DF' : 'NDF'}</TIMECODE_FLAG>`,
    `<TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_HI>${high}</TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_HI>`,
    `<TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_LO>${timeReferenceFrames - high * 2 ** 32}</TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_LO>`,
  ];
  const text = `<?xml version="1.0" encoding="UTF-8"?>\n<BWFXML><IXML_VERSION>1.61</IXML_VERSION><SPEED>${speed.join('')}</SPEED></BWFXML>\n`;
  return new TextEncoder().encode(text);
}

function parse(text: string): Node {
  try {
    return (parser.parse(text) ?? {}) as Node;
  } catch {
    return {};
  }
}

function nodeAt(node: Node, name: string): Node {
  return listOf(node[name])[0] ?? {};
}

function listOf(value: unknown): Node[] {
  return (Array.isArray(value) ? value : [value]).filter(
    (item): item is Node => typeof item === 'object' && item !== null,
  );
}

function wordsOf(value: unknown): string {
  if (typeof value !== 'string') return '';
  return value.replace(/&(lt|gt|quot|apos|amp);/g, (_, name: keyof typeof ENTITIES) => ENTITIES[name]).trim();
}

const ENTITIES = { lt: '<', gt: '>', quot: '"', apos: "'", amp: '&' };
