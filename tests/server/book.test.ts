/** A book in a folder of its own: verified chapters under their numbers, one file of them all, and a retail sample. */
import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { appendFileSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { eq } from 'drizzle-orm';
import { bookSettings } from '@/core/lineup/book';
import { recordSettings } from '@/core/lineup/line-up';
import { listAssemblies, orderAssembly } from '@/server/assemblies/assemblies';
import { previewBook } from '@/server/assemblies/book';
import { orderBatch } from '@/server/batches/batches';
import { deliveries } from '@/server/db/schema';
import { setCover } from '@/server/deliveries/cover';
import { viewDeliveries } from '@/server/jobs/delivery-view';
import { exportJob } from '@/server/jobs/export-job';
import { receiveJob } from '@/server/jobs/import-job';
import { changeLineUp, createLineUp, lineUpOf, listLineUps } from '@/server/line-ups/line-ups';
import { changeTreatment } from '@/server/treatments/treatments';
import { bookChapter, RATE, type Recipe } from '../fixtures/book';
import { COVER } from '../fixtures/cover';
import { ffmpegDecoded } from '../fixtures/decoded';
import { code } from '../fixtures/error-code';
import { TestServer } from '../fixtures/server';

const SPEC = 'audiobook-retail';
const M4B = { form: 'book', format: { kind: 'm4a' } } as const;
const CHAPTERS: [title: string, recipe: Recipe][] = [
  ['credits at the start', { seconds: 4 }],
  ['The harbour', { seconds: 60, gainDb: -9 }],
  ['Low water', { seconds: 5, head: 0.05, channels: 2 }],
  ['credits at the end', { seconds: 4, tail: 8 }],
];

let host: TestServer;
let ids: string[];
let bookId: string;
/** One book for all: what a test leaves is what the next one begins with. */
beforeAll(async () => {
  host = new TestServer();
  ids = [];
  for (const [i, [title, recipe]] of CHAPTERS.entries()) {
    ids.push((await host.takeIn(bookChapter(i + 1, recipe), `${title}.wav`)).programmeId);
  }
  await host.server.runner.whenIdle();
  bookId = createLineUp(host.server, host.jobId, {
    kind: 'book',
    name: 'The tide tables',
    specId: SPEC,
    record: recordSettings.parse({
      artist: 'Ines Quill',
      book: {
        hasOpeningCredits: true,
        hasClosingCredits: true,
        chapterName: '{number} {book} - {title}',
        sample: { programmeId: ids[1], startSeconds: 2, seconds: 60 },
      },
    }),
    members: ids.map((programmeId) => ({ programmeId })),
  });
});
afterAll(() => host.remove());

const deliverAll = async () => {
  orderBatch(host.server, host.jobId, ids, {
    kind: 'deliver',
    specId: SPEC,
    maxReductionDb: 6,
    fitsEdges: true,
    bookId,
  });
  await host.server.runner.whenIdle();
};
const folder = (name = 'The tide tables') => join(host.root, 'records', host.jobId, name);
const newest = () => listAssemblies(host.server, bookId)[0];
/** As FFmpeg plays it: without what coders add at both ends. */
const secondsOf = (path: string) =>
  execFileSync('ffmpeg', ['-v', 'error', '-i', path, '-f', 's16le', '-'], { maxBuffer: 1 << 28 }).length / 2 / RATE;
const probe = (path: string, ...what: string[]) =>
  JSON.parse(execFileSync('ffprobe', ['-v', 'error', ...what, '-of', 'json', path], { encoding: 'utf8' }));

async function* one(bytes: Uint8Array): AsyncGenerator<Uint8Array> {
  yield bytes;
}

test('a book is written from its verified chapters, in names and order as set; other decoders agree', async () => {
  const before = previewBook(host.server, bookId);
  expect(before.chapters.map(({ isDelivered }) => isDelivered)).toEqual([false, false, false, false]);
  expect(await code(() => orderAssembly(host.server, bookId, M4B))).toBe('chapters-not-delivered');

  await setCover(host.server, ids[1] as string, one(COVER));
  await deliverAll();
  const names = [
    '00 The tide tables - Opening credits.mp3',
    '01 The tide tables - The harbour.mp3',
    '02 The tide tables - Low water.mp3',
    '03 The tide tables - Closing credits.mp3',
  ];
  const preview = previewBook(host.server, bookId);
  expect(preview.chapters.map(({ fileName }) => fileName)).toEqual(names);
  expect(preview.chapters.every(({ isDelivered }) => isDelivered)).toBe(true);
  orderAssembly(host.server, bookId, M4B);
  await host.server.runner.whenIdle();
  expect(newest()).toMatchObject({ state: 'written', form: 'book', task: null });
  const sampleFile = 'The tide tables - sample.mp3';
  expect(readdirSync(folder()).sort()).toEqual(
    [...names, sampleFile, 'The tide tables.csv', 'The tide tables.m4b', 'The tide tables.pdf'].sort(),
  );

  // Each chapter is the very file that was verified, and passes where FFmpeg decodes it.
  const delivered = [...viewDeliveries(host.server, eq(deliveries.jobId, host.jobId)).values()].flat();
  for (const name of [...names, sampleFile]) {
    const path = join(folder(), name);
    const sha256 = createHash('sha256').update(readFileSync(path)).digest('hex');
    expect(delivered.some(({ written }) => written?.sha256 === sha256)).toBe(name !== sampleFile);
    const { peakDbfs, rmsDbfs, channels, bitRateKbps } = ffmpegDecoded(path);
    expect(peakDbfs).toBeLessThanOrEqual(-3);
    expect(rmsDbfs).toBeGreaterThanOrEqual(-23);
    expect(rmsDbfs).toBeLessThanOrEqual(-18);
    expect([channels, bitRateKbps]).toEqual([1, 192]);
  }
  // What the files say of themselves: from the book, where the programme has none of its own.
  const { tags } = probe(join(folder(), names[1] as string), '-show_format').format;
  expect(tags).toMatchObject({ title: 'The harbour', artist: 'Ines Quill', album: 'The tide tables', track: '2/4' });
  // A sample of a minute, and the room tone that its spec asks for.
  const sampleSeconds = secondsOf(join(folder(), sampleFile));
  expect(sampleSeconds).toBeGreaterThan(60);
  expect(sampleSeconds).toBeLessThan(66);

  // One file of them all: its chapters begin where the single files do, one after the other.
  const whole = join(folder(), 'The tide tables.m4b');
  const { chapters } = probe(whole, '-show_chapters');
  const pictures = probe(whole, '-show_streams').streams.filter(
    (own: { codec_name: string }) => own.codec_name === 'png',
  );
  expect(pictures).toMatchObject([{ width: 1, height: 1, disposition: { attached_pic: 1 } }]);
  expect(chapters.map((own: { tags: { title: string } }) => own.tags.title)).toEqual([
    'Opening credits',
    'The harbour',
    'Low water',
    'Closing credits',
  ]);
  let at = 0;
  for (const [i, name] of names.entries()) {
    expect(Math.abs(Number(chapters[i].start_time) - at)).toBeLessThan(0.06);
    at += secondsOf(join(folder(), name));
  }
  const { rmsDbfs } = ffmpegDecoded(whole);
  expect(rmsDbfs).toBeGreaterThanOrEqual(-23);
  expect(rmsDbfs).toBeLessThanOrEqual(-18);
  expect(readFileSync(join(folder(), 'The tide tables.csv'), 'utf8')).toContain(names[2]);

  // It goes with its job's ZIP, and is measured again there.
  const other = new TestServer();
  try {
    const { body } = await exportJob(host.server, host.jobId);
    const jobId = await receiveJob(other.server, 'job.zip', body);
    const [brought] = listLineUps(other.server, jobId).flatMap(({ id }) => listAssemblies(other.server, id));
    expect(brought?.outcome).toEqual(newest()?.outcome);
    const there = join(other.root, 'records', jobId, 'The tide tables');
    for (const name of readdirSync(folder()))
      expect(readFileSync(join(there, name)).equals(readFileSync(join(folder(), name)))).toBe(true);
  } finally {
    await other.remove();
  }

  // What is set anew is not what was verified.
  changeTreatment(host.server, ids[2] as string, { gainDb: -3, hum: null } as never);
  expect(previewBook(host.server, bookId).chapters[2]?.isDelivered).toBe(false);
  expect(await code(() => orderAssembly(host.server, bookId, M4B))).toBe('chapters-not-delivered');
});

test('a sample that cannot be is said, and no folder is left; nor is one where a file was altered', async () => {
  await deliverAll();
  const { record } = lineUpOf(host.server, bookId);
  const sample = { programmeId: ids[1] as string, startSeconds: 30, seconds: 60 };
  changeLineUp(host.server, bookId, { record: { ...record, book: { ...record.book, sample } } });
  orderAssembly(host.server, bookId, M4B);
  await host.server.runner.whenIdle();
  expect(newest()).toMatchObject({ state: 'ended', task: { state: 'failed' } });
  expect(newest()?.task?.error?.happened).toContain('it ends behind the end of the programme');
  expect(readdirSync(join(host.root, 'records', host.jobId))).toEqual(['The tide tables']);

  changeLineUp(host.server, bookId, { record: { ...record, book: { ...record.book, sample: null } } });
  const [file] = readdirSync(join(host.root, 'deliveries', host.jobId));
  appendFileSync(join(host.root, 'deliveries', host.jobId, file as string), 'x');
  orderAssembly(host.server, bookId, M4B);
  await host.server.runner.whenIdle();
  expect(newest()?.task?.error?.code).toBe('delivery-altered');
  expect(readdirSync(join(host.root, 'records', host.jobId))).toEqual(['The tide tables']);
});

test('a sample of a programme that is not in the book is none, and names need a number', () => {
  const { record } = lineUpOf(host.server, bookId);
  const sample = { programmeId: ids[1] as string, startSeconds: 0, seconds: 60 };
  changeLineUp(host.server, bookId, { record: { ...record, book: { ...record.book, sample } } });
  expect(lineUpOf(host.server, bookId).record.book.sample).toEqual(sample);
  changeLineUp(host.server, bookId, { members: [{ programmeId: ids[0] as string, gapSeconds: 0 }] });
  expect(lineUpOf(host.server, bookId).record.book.sample).toBeNull();
  for (const chapterName of ['{title}', '{number} {chapter}', '']) {
    expect(bookSettings.safeParse({ ...record.book, chapterName }).success).toBe(false);
  }
});
