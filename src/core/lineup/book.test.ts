import { NO_TAGS } from '../file-formats/tags';
import { bookSettings, chapterNames, chapterTags, chapterTitles, USUAL_BOOK } from './book';

const BOOK = { title: 'The tide tables', author: 'Ines Quill' };

test('chapters are numbered from 1; opening credits are 0, and closing credits follow the last', () => {
  const titles = ['intro', 'One', 'Two', 'outro'];
  expect(chapterNames(USUAL_BOOK, BOOK, titles)).toEqual(['01 intro', '02 One', '03 Two', '04 outro']);
  const credited = { ...USUAL_BOOK, hasOpeningCredits: true, hasClosingCredits: true };
  expect(chapterNames(credited, BOOK, titles)).toEqual([
    '00 Opening credits',
    '01 One',
    '02 Two',
    '03 Closing credits',
  ]);
});

test('a book of one programme has no closing credits beside its opening credits', () => {
  expect(chapterTitles({ hasOpeningCredits: true, hasClosingCredits: true }, ['all'])).toEqual(['Opening credits']);
  expect(chapterTitles({ hasOpeningCredits: false, hasClosingCredits: true }, ['all'])).toEqual(['all']);
});

test('numbers have as many digits as the last', () => {
  const names = chapterNames(
    USUAL_BOOK,
    BOOK,
    Array.from({ length: 120 }, () => 'same'),
  );
  expect(names[0]).toBe('001 same');
  expect(names[119]).toBe('120 same');
  expect(new Set(names).size).toBe(120);
});

test('names are short enough, and keep their number, however long the texts and wherever it stands', () => {
  const long = { title: 'ä'.repeat(90), author: 'author '.repeat(20) };
  for (const chapterName of ['{book} {author} {title} {number}', '{number} {title}', '{author}/{book}:{number}']) {
    const names = chapterNames({ ...USUAL_BOOK, chapterName }, long, ['x'.repeat(100), 'x'.repeat(100)]);
    expect(new Set(names).size).toBe(2);
    for (const [i, name] of names.entries()) {
      expect([...name].length).toBeLessThanOrEqual(60);
      expect(name).toContain(`0${i + 1}`);
      expect(name).not.toMatch(/[/:]/);
    }
  }
});

test('a pattern has a number, and nothing that is not known', () => {
  const read = (chapterName: string) => bookSettings.safeParse({ chapterName });
  expect(read('{number}').success).toBe(true);
  expect(read('{title}').error?.issues[0]?.message).toMatch(/\{number\}/);
  expect(read('{number} {chapter}').error?.issues[0]?.message).toMatch(/\{chapter\} is not known/);
});

test('a chapter keeps what it says of itself, and has the rest of its book', () => {
  const book = { ...BOOK, chapters: 12 };
  const own = { ...NO_TAGS, title: 'Low water', artist: 'A guest', year: '2026' };
  expect(chapterTags(own, book, { place: 3, title: 'ch03_final' })).toMatchObject({
    title: 'Low water',
    artist: 'A guest',
    album: 'The tide tables',
    track: '3/12',
    year: '2026',
  });
});
