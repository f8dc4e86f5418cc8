import { safeFileName, titleFromFileName } from './file-name';

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
