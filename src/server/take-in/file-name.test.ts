import { safeFileName, slug, titleFromFileName } from './file-name';

test.each([
  ['mix.wav', 'mix.wav'],
  ['../../etc/passwd', 'passwd'],
  ['C:\\mixes\\final.wav', 'final.wav'],
  ['..', 'unnamed'],
  ['', 'unnamed'],
  ['a\u0000b\u001b[31m.wav', 'ab[31m.wav'],
  ['evil\u202evaw.exe', 'evilvaw.exe'],
  ['Überflug – 星空 🎧.wav', 'Überflug – 星空 🎧.wav'],
])('%j is shown as %j', (name, shown) => {
  expect(safeFileName(name)).toBe(shown);
});

test('a name of 300 characters is cut, and keeps its extension', () => {
  const name = safeFileName(`${'long '.repeat(60)}.wav`);
  expect([...name].length).toBeLessThanOrEqual(200);
  expect(name).toMatch(/….wav$/);
});

test('a title is the name without its extension', () => {
  expect(titleFromFileName('nightfall_mix07.WAV')).toBe('nightfall_mix07');
  expect(titleFromFileName('.wav')).toBe('.wav');
  expect(titleFromFileName('Vol. 2')).toBe('Vol. 2');
  expect(titleFromFileName('chapter 01.flac')).toBe('chapter 01');
});

test.each([
  ['Nightfall overture', 'nightfall-overture'],
  ['Why is the sky dark?', 'why-is-the-sky-dark'],
  ['../..', 'programme'],
  ['CON: a/b\\c*', 'con-a-b-c'],
  ['Überflug 星空', 'überflug-星空'],
])('%j becomes %j in a file name', (title, part) => {
  expect(slug(title)).toBe(part);
});

test('a part of a file name stays within what file systems take', () => {
  expect(Buffer.byteLength(slug('🎵星'.repeat(200)))).toBeLessThanOrEqual(160);
});
