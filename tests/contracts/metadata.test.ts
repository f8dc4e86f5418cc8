/** What files carry beside their sound: read as other tools write it, and kept byte for byte. */

import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { probe, probeMetadata } from '@/codecs/probe';
import { bytesSource } from '@/formats/bytes';
import { type ChunkBody, chunksOf, readChunk } from '@/formats/chunks';
import { createWavWriter } from '@/formats/wav/writer';
import { buildAiff } from '../fixtures/aiff';
import { data, metadataOf, subchunk, text, uint32, wavWith } from '../fixtures/chunk-bodies';
import { ffmpeg, material } from '../fixtures/ffmpeg';
import { buildWav } from '../fixtures/wav';

const folder = mkdtempSync(join(tmpdir(), 'opsimeter-metadata-'));
afterAll(() => rmSync(folder, { recursive: true }));
const at = (name: string) => join(folder, name);

describe.each([false, true])('places in a WAV (big-endian: %s)', (bigEndian) => {
  const cue = (id: number, frame: number) =>
    Buffer.concat([uint32(bigEndian, id, frame), Buffer.from('data'), uint32(bigEndian, 0, 0, frame)]);
  const chunks = [
    { id: 'cue ', body: Buffer.concat([uint32(bigEndian, 3), cue(7, 900), cue(8, 100), cue(9, 500)]) },
    {
      id: 'LIST',
      body: Buffer.concat([
        Buffer.from('adtl'),
        subchunk(bigEndian, 'labl', Buffer.concat([uint32(bigEndian, 7), text('Applause')])),
        subchunk(bigEndian, 'note', Buffer.concat([uint32(bigEndian, 8), text('a note')])),
        subchunk(bigEndian, 'ltxt', Buffer.concat([uint32(bigEndian, 7, 250), Buffer.from('rgn '), Buffer.alloc(8)])),
      ]),
    },
    {
      id: 'smpl',
      body: Buffer.concat([
        uint32(bigEndian, 0, 0, 20_833, 60, 0, 0, 0, 1, 0),
        uint32(bigEndian, 1, 0, 300, 399, 0, 0),
      ]),
    },
  ];
  test('cues, their labels and lengths, and loops, in the order of time', async () => {
    const found = await metadataOf(wavWith(chunks, { bigEndian }));
    expect(found.markers).toEqual([
      { frame: 100, lengthFrames: 0, label: 'a note' },
      { frame: 300, lengthFrames: 100, label: 'loop 1' },
      { frame: 500, lengthFrames: 0, label: 'cue 9' },
      { frame: 900, lengthFrames: 250, label: 'Applause' },
    ]);
  });
  test('counts that lie are bounded by the chunk', async () => {
    const lying = chunks.map(({ id, body }) => ({ id, body: Buffer.from(body) }));
    uint32(bigEndian, 0xffffffff).copy(lying[0]?.body as Buffer, 0);
    uint32(bigEndian, 0xffffffff).copy(lying[2]?.body as Buffer, 28);
    expect((await metadataOf(wavWith(lying, { bigEndian }))).markers).toHaveLength(4);
  });
});

test('LIST/INFO: known names in words, others as they are, Latin-1 where it is no UTF-8', async () => {
  const list = Buffer.concat([
    Buffer.from('INFO'),
    subchunk(false, 'INAM', text('Überfahrt')),
    subchunk(false, 'IART', Buffer.from('Q. M\xfcller\0', 'latin1')),
    subchunk(false, 'IXYZ', text('odd')),
    subchunk(false, 'ICMT', text('')),
  ]);
  expect((await metadataOf(wavWith([{ id: 'LIST', body: list }]))).tags).toEqual([
    { name: 'Title', value: 'Überfahrt' },
    { name: 'Artist', value: 'Q. Müller' },
    { name: 'IXYZ', value: 'odd' },
  ]);
});

describe('XML', () => {
  const ixml = (inner: string) =>
    wavWith([{ id: 'iXML', body: Buffer.from(`<?xml version="1.0"?><BWFXML>${inner}</BWFXML>\0`) }]);
  test('iXML: scene, take, tracks, time reference where there is no bext', async () => {
    const found = await metadataOf(
      ixml(
        '<SCENE>12A</SCENE><TAKE>3</TAKE><NOTE>best &amp; last</NOTE>' +
          '<SPEED><TIMECODE_RATE>25/1</TIMECODE_RATE><TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_HI>1</TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_HI>' +
          '<TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_LO>5</TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_LO></SPEED>' +
          '<TRACK_LIST><TRACK_COUNT>2</TRACK_COUNT><TRACK><CHANNEL_INDEX>1</CHANNEL_INDEX><NAME>Boom</NAME></TRACK>' +
          '<TRACK><CHANNEL_INDEX>2</CHANNEL_INDEX><NAME>Lav</NAME><FUNCTION>R</FUNCTION></TRACK></TRACK_LIST>',
      ),
    );
    expect(found.tags).toEqual([
      { name: 'Scene', value: '12A' },
      { name: 'Take', value: '3' },
      { name: 'Note', value: 'best & last' },
      { name: 'Track 1', value: 'Boom' },
      { name: 'Track 2', value: 'Lav, R' },
      { name: 'Frame rate', value: '25/1' },
    ]);
    expect(found.timeReferenceFrames).toBe(2 ** 32 + 5);
    expect(found.timeCode).toEqual({ rate: '25', pictureFrame: 0, offsetFrames: 2 ** 32 + 5 });
  });

  test('iXML: time code drops labels where it says so, and is none at a rate that is not counted', async () => {
    const stated = async (rate: string, flag: string) => {
      const stamp = '<TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_LO>5</TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_LO>';
      const speed = `<TIMECODE_RATE>${rate}</TIMECODE_RATE><TIMECODE_FLAG>${flag}</TIMECODE_FLAG>`;
      return (await metadataOf(ixml(`<SPEED>${speed}${stamp}</SPEED>`))).timeCode?.rate;
    };
    expect(await stated('30000/1001', 'DF')).toBe('29.97-drop');
    expect(await stated('30000/1001', 'NDF')).toBe('29.97');
    expect(await stated('24000/1001', 'NDF')).toBe('23.976');
    expect(await stated('12/1', 'NDF')).toBeUndefined();
    expect(await stated('1/0', 'NDF')).toBeUndefined();
    expect(await stated('', '')).toBeUndefined();
  });

  test.each([
    ['is cut off', '<SCENE>12A'],
    ['names itself', '<SCENE><SCENE>x</SCENE></SCENE>'],
    ['is deep', '<A>'.repeat(5000)],
    ['grows', `</BWFXML><!DOCTYPE x [<!ENTITY a "${'b'.repeat(50)}">]><BWFXML><NOTE>${'&a;'.repeat(1000)}</NOTE>`],
  ])('XML that %s costs nothing else', async (_name, inner) => {
    const found = await metadataOf(ixml(inner));
    expect(found.chunks.map(({ id }) => id)).toEqual(['iXML', 'fmt ', 'data']);
    expect(JSON.stringify(found.tags).length).toBeLessThan(10_000);
  });

  test('axml and chna: what programmes and tracks are called (ITU-R BS.2076 and BS.2088, from memory)', async () => {
    const axml =
      '<ebuCoreMain><coreMetadata><format><audioFormatExtended>' +
      '<audioProgramme audioProgrammeID="APR_1001" audioProgrammeName="Dome show"/>' +
      '<audioObject audioObjectID="AO_1001" audioObjectName="Narrator"/>' +
      '<audioObject audioObjectID="AO_1002" audioObjectName="Music bed"/>' +
      '</audioFormatExtended></format></coreMetadata></ebuCoreMain>';
    const chna = Buffer.alloc(4 + 80);
    chna.writeUInt16LE(1, 0);
    chna.writeUInt16LE(1, 2);
    chna.writeUInt16LE(1, 4);
    chna.write('ATU_00000001', 6);
    chna.write('AT_00031001_01', 18);
    chna.write('AP_00031001', 32);
    const found = await metadataOf(
      wavWith([
        { id: 'axml', body: Buffer.from(axml) },
        { id: 'chna', body: chna },
      ]),
    );
    expect(found.tags).toEqual([
      { name: 'Programme', value: 'Dome show' },
      { name: 'Object', value: 'Narrator' },
      { name: 'Object', value: 'Music bed' },
      { name: 'ADM track 1', value: 'ATU_00000001 · AT_00031001_01 · AP_00031001' },
    ]);
  });
});

test('AIFF: texts, comments and markers', async () => {
  const pascal = (words: string) => {
    const string = Buffer.concat([Buffer.of(words.length), Buffer.from(words)]);
    return Buffer.concat([string, Buffer.alloc(string.length % 2)]);
  };
  const marker = (id: number, frame: number, name: string) => {
    const head = Buffer.alloc(6);
    head.writeUInt16BE(id, 0);
    head.writeUInt32BE(frame, 2);
    return Buffer.concat([head, pascal(name)]);
  };
  const comment = Buffer.concat([
    Buffer.of(0, 1),
    Buffer.alloc(6),
    Buffer.of(0, 5),
    Buffer.from('hello'),
    Buffer.alloc(1),
  ]);
  const found = await metadataOf(
    buildAiff({
      data: new Uint8Array(6000),
      ahead: [
        ['NAME', Buffer.from('Overture')],
        ['AUTH', Buffer.from('Nobody')],
        ['(c) ', Buffer.from('2026')],
        ['ANNO', Buffer.from('one')],
        ['COMT', comment],
        ['MARK', Buffer.concat([Buffer.of(0, 3), marker(1, 500, 'two'), marker(2, 20, 'one!'), marker(3, 900, '')])],
        ['XTRA', Buffer.from('abc')],
      ],
    }),
  );
  expect(found.tags.map(({ name, value }) => `${name}: ${value}`)).toEqual([
    'Title: Overture',
    'Author: Nobody',
    'Copyright: 2026',
    'Comment: one',
    'Comment: hello',
  ]);
  expect(found.markers.map(({ frame, label }) => [frame, label])).toEqual([
    [20, 'one!'],
    [500, 'two'],
    [900, 'marker 3'],
  ]);
  expect(found.chunks.map(({ id }) => id)).toEqual([
    'NAME',
    'AUTH',
    '(c) ',
    'ANNO',
    'COMT',
    'MARK',
    'XTRA',
    'COMM',
    'SSND',
  ]);
});

test('every chunk is kept byte for byte, those behind the samples and unknown ones included', async () => {
  const bodies: ChunkBody[] = ['bext', 'iXML', 'cue ', 'LIST', 'smpl', 'axml', 'chna', 'zZ#9'].map((id, i) => ({
    id,
    body: Uint8Array.from({ length: 601 + 7 * i }, (_, n) => (n * 31 + i) & 0xff),
  }));
  const [ahead, behind] = [bodies.slice(0, 4), bodies.slice(4)];
  const asBuffers = (chunks: ChunkBody[]) => chunks.map(({ id, body }) => ({ id, body: Buffer.from(body) }));
  const original = buildWav({ data, chunks: asBuffers(ahead), trailing: asBuffers(behind) });
  const kept = await chunksIn(original);
  expect(kept).toEqual(bodies);

  // And through our own writer.
  const written: Uint8Array[] = [];
  const sink = { write: async (bytes: Uint8Array) => void written.push(bytes.slice()) };
  const writer = await createWavWriter(sink, {
    sampleRateHz: 48_000,
    channels: 2,
    channelMask: 0,
    frames: 100,
    chunks: kept,
  });
  await writer.write([new Float32Array(100), new Float32Array(100)], 100, 1);
  await writer.finish();
  expect(await chunksIn(Buffer.concat(written))).toEqual(bodies);
});

async function chunksIn(bytes: Uint8Array): Promise<ChunkBody[]> {
  const source = bytesSource(bytes);
  const found: ChunkBody[] = [];
  for await (const chunk of chunksOf(source, true)) {
    if (chunk.id !== 'fmt ' && chunk.id !== 'data') {
      found.push({ id: chunk.id, body: Uint8Array.from(await readChunk(source, chunk, 1_000_000)) });
    }
  }
  return found;
}

test('tags and chapters of what FFmpeg opens', async () => {
  writeFileSync(
    at('chapters.txt'),
    ';FFMETADATA1\ntitle=Guide\nartist=Nobody\n[CHAPTER]\nTIMEBASE=1/1000\nSTART=0\nEND=1000\ntitle=Welcome\n[CHAPTER]\nTIMEBASE=1/1000\nSTART=1000\nEND=2000\n',
  );
  const chapters = ['-i', at('chapters.txt'), '-map_metadata', '1', '-map_chapters', '1', '-map', '0:a'];
  ffmpeg(...material(2, 44_100, 88_200), ...chapters, '-c:a', 'aac', at('book.m4a'));
  const { format } = await probe(at('book.m4a'), 'book.m4a');
  const found = await probeMetadata(at('book.m4a'), 'book.m4a', format);
  expect(found.tags).toEqual(
    expect.arrayContaining([
      { name: 'Title', value: 'Guide' },
      { name: 'Artist', value: 'Nobody' },
    ]),
  );
  expect(found.markers).toEqual([
    { frame: 0, lengthFrames: 44_100, label: 'Welcome' },
    { frame: 44_100, lengthFrames: 44_100, label: 'chapter 2' },
  ]);
});
