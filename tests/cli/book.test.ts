/** Books of a job file of `opsimeter deliver`: every chapter passes where FFmpeg decodes it, or nothing is written and it is said why. */
import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { bookChapter, type Recipe } from '../fixtures/book';
import { opsimeter } from '../fixtures/command';
import { ffmpegDecoded } from '../fixtures/decoded';

const CHAPTERS: Record<string, Recipe> = {
  'opening.wav': { seconds: 4 },
  'harbour.wav': { seconds: 60, gainDb: -9, head: 0.05 },
  'low water.wav': { seconds: 5, channels: 2, rate: 48_000, tail: 8 },
  'noisy.wav': { seconds: 5, floorDbfs: -42 },
};

let folder: string;
const at = (...names: string[]) => join(folder, ...names);
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'opsimeter-book-'));
  for (const [i, [name, recipe]] of Object.entries(CHAPTERS).entries()) {
    writeFileSync(at(name), bookChapter(i + 1, recipe));
  }
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const MP3 = { kind: 'mp3', sampleRateHz: 44_100, arrangement: 'mono', bitRateKbps: 192, mode: 'constant' };
const BOOK = {
  author: 'Ines Quill',
  spec: 'audiobook-retail',
  format: MP3,
  hasOpeningCredits: true,
  chapters: [{ file: 'opening.wav' }, { file: 'harbour.wav', title: 'The harbour' }, { file: 'low water.wav' }],
};
function deliver(name: string, book: object) {
  writeFileSync(at(`${name}.json`), JSON.stringify({ output: 'out', books: [{ ...BOOK, name, ...book }] }));
  return opsimeter('deliver', at(`${name}.json`), '--json');
}

test('a book is written with its sample and one file of all chapters; FFmpeg decodes what passes', () => {
  const { code, out, err } = deliver('Tides', { sample: { chapter: 2, startSeconds: 1, seconds: 60 } });
  expect([code, err]).toEqual([0, '']);
  const [written] = JSON.parse(out);
  expect(written).toMatchObject({ book: 'Tides', missed: [], verdict: { inside: true } });
  const chapters = ['00 Opening credits.mp3', '01 The harbour.mp3', '02 low water.mp3'];
  expect(readdirSync(at('out', 'Tides')).sort()).toEqual(
    [...chapters, 'Tides - sample.mp3', 'Tides.csv', 'Tides.m4b'].sort(),
  );
  for (const name of [...chapters, 'Tides - sample.mp3', 'Tides.m4b']) {
    const { peakDbfs, rmsDbfs, channels } = ffmpegDecoded(at('out', 'Tides', name));
    expect(peakDbfs).toBeLessThanOrEqual(name.endsWith('m4b') ? -2.5 : -3);
    expect(rmsDbfs).toBeGreaterThanOrEqual(-23);
    expect(rmsDbfs).toBeLessThanOrEqual(-18);
    expect(channels).toBe(1);
  }
  const probe = JSON.parse(
    execFileSync(
      'ffprobe',
      ['-v', 'error', '-show_chapters', '-show_format', '-of', 'json', at('out', 'Tides', 'Tides.m4b')],
      { encoding: 'utf8' },
    ),
  );
  expect(probe.chapters.map((own: { tags: { title: string } }) => own.tags.title)).toEqual([
    'Opening credits',
    'The harbour',
    'low water',
  ]);
  expect(probe.format.tags).toMatchObject({ artist: 'Ines Quill', album: 'Tides' });
  expect(readFileSync(at('out', 'Tides', 'Tides.csv'), 'utf8')).toContain('01 The harbour.mp3');
});

test('what no gain mends is said of each chapter, and nothing is written', () => {
  const chapters = [{ file: 'noisy.wav' }, ...BOOK.chapters.slice(0, 1)];
  const { code, out, err } = deliver('Noise', { chapters, hasOpeningCredits: false });
  expect([code, err]).toEqual([1, '']);
  expect(JSON.parse(out)[0]).toMatchObject({
    book: 'Noise',
    missed: [{ title: 'noisy', text: expect.stringMatching(/noise floor \d+\.\d dB over/) }],
  });
  expect(existsSync(at('out', 'Noise'))).toBe(false);
  expect(readdirSync(at('out')).filter((name) => name.includes('.part'))).toEqual([]);
});

test('a sample of no chapter, and one that ends behind it, are refused before anything is kept', () => {
  expect(deliver('Far', { sample: { chapter: 9, startSeconds: 0, seconds: 60 } }).err).toContain('there are 3');
  const late = deliver('Late', { sample: { chapter: 2, startSeconds: 40, seconds: 60 } });
  expect([late.code, late.err]).toEqual([2, expect.stringContaining('it ends behind the end of the programme')]);
  expect(existsSync(at('out', 'Late'))).toBe(false);
});
