/** Tags of written files, read back by ffprobe; what they take over of their source; how `bext` is filled. */
import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { FILE_FORMATS, type FileKind } from '@/core/file-formats/file-formats';
import { tagsSchema } from '@/core/file-formats/tags';
import { specById } from '@/core/spec/catalogue';
import { treatmentSchema } from '@/core/treatment/treatment';
import { bytesSource } from '@/formats/bytes';
import { readPcmMetadata } from '@/formats/open-metadata';
import { readPcmHeader } from '@/formats/open-pcm';
import { bextWithHistory } from '@/formats/wav/bext';
import { cueChunks } from '@/formats/wav/cues';
import { readFileTags } from '@/workers/node/file-metadata';
import { renderFile } from '@/workers/node/render-file';
import { delivered } from '../fixtures/delivering';
import { tone } from '../fixtures/signals';
import { buildWav, interleave, wavOf } from '../fixtures/wav';

const RATE = 48_000;
const folder = mkdtempSync(join(tmpdir(), 'opsimeter-tags-'));
const at = (name: string) => join(folder, name);
afterAll(() => rmSync(folder, { recursive: true }));

const TAGS = tagsSchema.parse({
  title: 'Nightfall “overture”',
  artist: 'Quillmere Dome',
  album: 'Autumn sky',
  track: '3/8',
  year: '2026',
  genre: 'Ambient; = \\ #',
  comment: 'Line one\nline two — æøå 星空',
  isrc: 'US-RC1-76-07839',
});

beforeAll(() => {
  const samples = tone([{ seconds: 10, levelDbfs: -23 }], RATE, 440);
  const bext = bextWithHistory(undefined, 'A=ANALOGUE,M=mono,T=tape', {
    description: 'Reel 4',
    timeReferenceFrames: 2 ** 33 + 5,
  });
  const cues = cueChunks([
    { frame: RATE, lengthFrames: 0, label: 'too early' },
    { frame: 3 * RATE, lengthFrames: 0, label: 'first bar' },
    { frame: 4 * RATE, lengthFrames: 9 * RATE, label: 'the whole end' },
  ]);
  const chunk = ({ id, body }: { id: string; body: Uint8Array }) => {
    const head = Buffer.alloc(8);
    head.write(id, 'latin1');
    head.writeUInt32LE(body.length, 4);
    return Buffer.concat([head, body, Buffer.alloc(body.length % 2)]);
  };
  const plain = buildWav({ channels: 1, sampleRateHz: RATE, bits: 24, data: interleave([samples], 24) });
  const file = Buffer.concat([
    plain.subarray(0, 36),
    ...[{ id: 'bext', body: bext }, ...cues].map(chunk),
    plain.subarray(36),
  ]);
  file.writeUInt32LE(file.length - 8, 4);
  writeFileSync(at('reel.wav'), file);
});

function probed(path: string): Record<string, string> {
  const args = ['-v', 'error', '-show_format', '-show_streams', '-of', 'json', path];
  const { format, streams } = JSON.parse(spawnSync('ffprobe', args).stdout.toString());
  const all = { ...format.tags, ...streams[0].tags };
  return Object.fromEntries(Object.entries(all).map(([name, value]) => [name.toLowerCase(), String(value)]));
}

test.each<[FileKind, Partial<Record<keyof typeof TAGS, string>>]>([
  ['flac', { year: 'date', isrc: 'isrc' }],
  ['mp3', { year: 'date', isrc: 'tsrc' }],
  ['m4a', { year: 'date' }],
  ['opus', { year: 'date', isrc: 'isrc' }],
  ['ogg', { year: 'date', isrc: 'isrc' }],
  ['wav', { year: 'date' }],
])('%s says all of it, as ffprobe reads it', async (kind, names) => {
  const path = at(`tagged.${FILE_FORMATS[kind].extensions[0]}`);
  await delivered(at('reel.wav'), path, { format: { kind }, spec: specById('ebu-r128'), tags: TAGS });
  const read = probed(path);
  const { isrc, ...own } = TAGS;
  // Vorbis comments have a field for the number, and one for how many there are.
  const plain = read.tracktotal ? { ...own, track: own.track.slice(0, 1) } : own;
  if (read.tracktotal) expect(read.tracktotal).toBe('8');
  for (const [name, value] of Object.entries(plain)) {
    expect({ name, value: read[names[name as keyof typeof TAGS] ?? name] }).toEqual({ name, value });
  }
  if (names.isrc) expect(read[names.isrc]).toBe(isrc);
});

async function metadataOf(path: string) {
  const source = bytesSource(readFileSync(path));
  return readPcmMetadata(source, await readPcmHeader(source, path));
}

test('WAV and AIFF say it in their own chunks, and an ISRC where EBU Tech 3352 has it (from memory)', async () => {
  await delivered(at('reel.wav'), at('own.wav'), { format: { kind: 'wav' }, spec: specById('ebu-r128'), tags: TAGS });
  const { tags } = await metadataOf(at('own.wav'));
  expect(tags).toEqual(
    expect.arrayContaining([
      { name: 'Title', value: TAGS.title },
      { name: 'Track', value: '3/8' },
      { name: 'Description', value: TAGS.title },
    ]),
  );
  expect(readFileSync(at('own.wav')).includes('<dc:identifier>ISRC:USRC17607839<')).toBe(true);
});

// The floats of an AIFF are those of an AIFF-C.
test.each([24, 32] as const)('AIFF of %i bits says the rest in an ID3 tag, as FFmpeg reads it', async (bitDepth) => {
  const path = at(`own ${bitDepth}.aiff`);
  await delivered(at('reel.wav'), path, {
    format: { kind: 'aiff', bitDepth },
    spec: specById('ebu-r128'),
    tags: TAGS,
  });
  const { isrc, title, album, track, year } = TAGS;
  expect(probed(path)).toMatchObject({ title, album, track, date: year, tsrc: isrc });
  const { format } = await readPcmHeader(bytesSource(readFileSync(path)), path);
  expect(await readFileTags(path, path, format)).toEqual(TAGS);
});

test('each file of a split delivery tells when it begins, and a recording without a date when it was written', async () => {
  await delivered(at('reel.wav'), at('parts'), {
    format: { kind: 'wav', arrangement: 'split' },
    spec: specById('ebu-r128'),
    tags: TAGS,
  });
  const { timeReferenceFrames, tags } = await metadataOf(at('parts.1.part'));
  expect(timeReferenceFrames).toBe(2 ** 33 + 5);
  expect(tags).toContainEqual({ name: 'Title', value: TAGS.title });
  const bare = wavOf([new Float32Array(RATE).fill(0.1)], { sampleRateHz: RATE });
  writeFileSync(at('bare.wav'), bare);
  const writtenAtMs = new Date(2026, 10, 29, 7, 5, 9).getTime();
  const treatment = treatmentSchema.parse({ gainDb: 0 });
  await renderFile(at('bare.wav'), at('dated.wav'), { treatment, writtenAtMs });
  expect((await metadataOf(at('dated.wav'))).tags).toContainEqual({ name: 'Recorded', value: '2026-11-29 07:05:09' });
});

test('markers and time reference are carried over, and shifted with what is cut, added and resampled', async () => {
  const render = async (name: string, treatment: object) => {
    await renderFile(at('reel.wav'), at(name), {
      treatment: treatmentSchema.parse({ gainDb: 0, ...treatment }),
      markers: [{ frame: 5 * RATE, lengthFrames: 0, label: 'mine' }],
    });
    const { markers, timeReferenceFrames, codingHistory } = await metadataOf(at(name));
    expect(codingHistory[0]).toBe('A=ANALOGUE,M=mono,T=tape');
    return { markers, timeReferenceFrames };
  };
  const whole = await render('whole.wav', {});
  expect(whole.timeReferenceFrames).toBe(2 ** 33 + 5);
  expect(whole.markers.map(({ frame, label }) => [frame, label])).toEqual([
    [RATE, 'too early'],
    [3 * RATE, 'first bar'],
    [4 * RATE, 'the whole end'],
    [5 * RATE, 'mine'],
  ]);
  const cut = await render('cut.wav', {
    keep: { startFrame: 2 * RATE, endFrame: 8 * RATE },
    head: { frames: 480, kind: 'silence' },
  });
  expect(cut.timeReferenceFrames).toBe(2 ** 33 + 5 + 2 * RATE - 480);
  expect(cut.markers).toEqual([
    { frame: RATE + 480, lengthFrames: 0, label: 'first bar' },
    { frame: 2 * RATE + 480, lengthFrames: 4 * RATE, label: 'the whole end' },
    { frame: 3 * RATE + 480, lengthFrames: 0, label: 'mine' },
  ]);
  const other = await render('other.wav', { resampleHz: 96_000 });
  expect(other.timeReferenceFrames).toBe(2 * (2 ** 33 + 5));
  expect(other.markers[1]).toEqual({ frame: 6 * RATE, lengthFrames: 0, label: 'first bar' });
});

test.each<[FileKind]>([['mp3'], ['m4a'], ['opus'], ['ogg'], ['flac']])(
  'markers are chapters of %s, where the sound is now',
  async (kind) => {
    const path = at(`chapters.${FILE_FORMATS[kind].extensions[0]}`);
    const keep = { keep: { startFrame: 2 * RATE, endFrame: null } };
    await delivered(at('reel.wav'), path, {
      format: { kind },
      spec: specById('ebu-r128'),
      tags: TAGS,
      treatment: { gainDb: 0, ...keep },
    });
    const args = ['-v', 'error', '-show_chapters', '-of', 'json', path];
    const { chapters } = JSON.parse(spawnSync('ffprobe', args).stdout.toString()) as {
      chapters: { start_time: string; tags: { title: string } }[];
    };
    expect(chapters.map(({ start_time, tags }) => [Number(start_time), tags?.title])).toEqual([
      // A track of chapters in MPEG-4 has no hole ahead of its first.
      ...(kind === 'm4a' ? [[0, expect.anything()]] : []),
      [expect.closeTo(1, 2), 'first bar'],
      [expect.closeTo(2, 2), 'the whole end'],
    ]);
  },
);
