/** What a WAV says of itself in words: `LIST`/INFO (RIFF of 1991, from memory) and an ISRC in `axml` (EBU Tech 3352, from memory). */
import type { Tags } from '@/core/file-formats/tags';
import type { ChunkBody } from '../chunks';

const INFO_IDS: readonly (readonly [string, keyof Tags])[] = [
  ['INAM', 'title'],
  ['IART', 'artist'],
  ['IPRD', 'album'],
  ['ITRK', 'track'],
  ['ICRD', 'year'],
  ['IGNR', 'genre'],
  ['ICMT', 'comment'],
];

/** The chunks that tags make; none where nothing is stated. */
export function textChunks(tags: Tags): ChunkBody[] {
  const texts = INFO_IDS.flatMap(([id, name]) => (tags[name] === '' ? [] : [{ id, text: tags[name] }]));
  return [
    ...(texts.length > 0
      ? [
          {
            id: 'LIST',
            body: listBody(
              'INFO',
              texts.map(({ id, text }) => [id, zeroEnded(text)]),
            ),
          },
        ]
      : []),
    ...(tags.isrc === '' ? [] : [{ id: 'axml', body: new TextEncoder().encode(isrcXml(tags.isrc)) }]),
  ];
}

/** A `LIST` of parts, each padded to an even length, without the chunk's own header. */
export function listBody(kind: string, parts: readonly (readonly [string, Uint8Array])[]): Uint8Array {
  const even = (bytes: number) => bytes + (bytes % 2);
  const body = new Uint8Array(4 + parts.reduce((sum, [, part]) => sum + 8 + even(part.length), 0));
  const view = new DataView(body.buffer);
  body.set(new TextEncoder().encode(kind), 0);
  let at = 4;
  for (const [id, part] of parts) {
    body.set(new TextEncoder().encode(id), at);
    view.setUint32(at + 4, part.length, true);
    body.set(part, at + 8);
    at += 8 + even(part.length);
  }
  return body;
}

export function zeroEnded(text: string): Uint8Array {
  return new TextEncoder().encode(`${text}\0`);
}

function isrcXml(isrc: string): string {
  return [
    '<?xml version="1.0" encoding="UTF-8"?>',
    '<ebuCoreMain xmlns:dc="http://purl.org/dc/elements/1.1/" xmlns="urn:ebu:metadata-schema:ebuCore_2012">',
    `<coreMetadata>${isrcIdentifier(isrc, '')}</coreMetadata></ebuCoreMain>`,
  ].join('');
}

/**
 * An ISRC as EBU Core has it, to stand within its `coreMetadata`.
 *
 * @param namespace declares `dc`, where what it stands in has not
 */
export function isrcIdentifier(isrc: string, namespace = ' xmlns:dc="http://purl.org/dc/elements/1.1/"'): string {
  return [
    '<identifier typeLabel="GUID" typeDefinition="Globally Unique Identifier"',
    ' formatLabel="ISRC" formatDefinition="International Standard Recording Code">',
    `<dc:identifier${namespace}>ISRC:${isrc}</dc:identifier></identifier>`,
  ].join('');
}
