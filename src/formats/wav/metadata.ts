import { isAppError } from '@/core/errors/app-error';
import { type TimeCodeRate, timeCodeAfterMidnight } from '@/core/units/time-code';
import { type ByteSource, fourCharacters } from '../bytes';
import { type Chunk, chunksOf, readChunk, textOf } from '../chunks';
import { addMarker, addTag, type Metadata, noMetadata } from '../metadata';
import { admText, chnaEntries } from './adm';
import { readAdmDefinition } from './adm-xml';
import { parseBext } from './bext';
import { type CueText, listed, parseAssociatedData, parseCues, parseLoops } from './cues';
import { readIxml } from './xml';

/** More of a chunk than this is not looked into. */
const MOST_BYTES = 4_000_000;

/** The names of `LIST`/INFO: RIFF of 1991, from memory, with those that have come into use since. */
const INFO_TAGS: Readonly<Record<string, string>> = {
  IART: 'Artist',
  ICMT: 'Comment',
  ICOP: 'Copyright',
  ICRD: 'Date',
  IENG: 'Engineer',
  IGNR: 'Genre',
  IKEY: 'Keywords',
  INAM: 'Title',
  IPRD: 'Album',
  IPRT: 'Track',
  ISBJ: 'Subject',
  ISFT: 'Software',
  ISRC: 'Supplied by',
  ITCH: 'Technician',
  ITRK: 'Track',
};

/** Reads every chunk of a WAV file but its samples. What is damaged says nothing. */
export async function readWavMetadata(source: ByteSource, isLittleEndian: boolean): Promise<Metadata> {
  const metadata = noMetadata();
  const cues = new Map<number, number>();
  const texts = new Map<number, CueText>();
  let timeCodeRate: TimeCodeRate | undefined;
  for await (const chunk of chunksOf(source, isLittleEndian)) {
    metadata.chunks.push({ id: chunk.id, bytes: bytesThere(source, chunk) });
    if (chunk.id === 'data') continue;
    const body = await readChunk(source, chunk, MOST_BYTES);
    switch (chunk.id) {
      case 'bext':
        showBext(body, isLittleEndian, metadata);
        break;
      case 'iXML':
        timeCodeRate = readIxml(textOf(body), metadata);
        break;
      case 'axml':
        readDefinitionNames(body, metadata);
        break;
      case 'chna':
        readChannelAllocation(body, isLittleEndian, metadata);
        break;
      case 'cue ':
        for (const [cue, frame] of parseCues(body, isLittleEndian)) cues.set(cue, frame);
        break;
      case 'smpl':
        for (const loop of parseLoops(body, isLittleEndian)) addMarker(metadata, loop);
        break;
      case 'LIST':
        if (body.length < 4) break;
        if (kindOf(body) === 'INFO') readInfo(body, isLittleEndian, metadata);
        if (kindOf(body) === 'adtl') for (const entry of parseAssociatedData(body, isLittleEndian)) texts.set(...entry);
    }
  }
  for (const [cue, frame] of cues) {
    const { label, lengthFrames = 0 } = texts.get(cue) ?? {};
    addMarker(metadata, { frame, lengthFrames, label: label || `cue ${cue}` });
  }
  metadata.markers.sort((a, b) => a.frame - b.frame);
  // The time reference may stand before or behind the rate.
  if (timeCodeRate && metadata.timeReferenceFrames !== null) {
    metadata.timeCode = timeCodeAfterMidnight(metadata.timeReferenceFrames, timeCodeRate);
  }
  return metadata;
}

function bytesThere(source: ByteSource, { offset, bytes }: Chunk): number {
  const left = Math.max(0, source.size - offset);
  return Math.min(bytes ?? left, left);
}

function kindOf(list: Uint8Array): string {
  return fourCharacters(new DataView(list.buffer, list.byteOffset), 0);
}

function showBext(body: Uint8Array, isLittleEndian: boolean, metadata: Metadata): void {
  const bext = parseBext(body, isLittleEndian);
  if (!bext) return;
  addTag(metadata, 'Description', bext.description);
  addTag(metadata, 'Originator', bext.originator);
  addTag(metadata, 'Reference', bext.originatorReference);
  addTag(metadata, 'Recorded', `${bext.originationDate} ${bext.originationTime}`);
  metadata.timeReferenceFrames = bext.timeReferenceFrames;
  metadata.statedLoudness = bext.loudness;
  metadata.codingHistory = bext.codingHistory;
}

function readInfo(body: Uint8Array, isLittleEndian: boolean, metadata: Metadata): void {
  for (const { id, at, bytes } of listed(body, isLittleEndian)) {
    addTag(metadata, INFO_TAGS[id] ?? id, textOf(body.subarray(at, at + bytes)));
  }
}

/** The names of what an audio definition describes; one that cannot be read says nothing. */
function readDefinitionNames(axml: Uint8Array, metadata: Metadata): void {
  try {
    const { programmes, contents, objects } = readAdmDefinition(admText(axml).text, [], '').model;
    for (const { name } of programmes) addTag(metadata, 'Programme', name);
    for (const { name } of contents) addTag(metadata, 'Content', name);
    for (const { name } of objects) addTag(metadata, 'Object', name);
  } catch (error) {
    if (!isAppError(error, 'adm-damaged')) throw error;
  }
}

/** Which element of an audio definition model each track belongs to (ITU-R BS.2088). */
function readChannelAllocation(body: Uint8Array, isLittleEndian: boolean, metadata: Metadata): void {
  for (const { track, uid, formatId, packId } of chnaEntries(body, isLittleEndian)) {
    addTag(metadata, `ADM track ${track}`, [uid, formatId, packId].filter(Boolean).join(' · '));
  }
}
