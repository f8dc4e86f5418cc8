import { AppError, isAppError, toErrorRecord } from './app-error';
import { catalogue } from './catalogue';

test('every error says what happened in whole sentences, with its fields filled in', () => {
  const fields = new Proxy(
    {},
    { get: (_, name) => (name === 'known' ? ['a', 'b'] : name === 'samplePeakDbfs' ? 2 : `<${String(name)}>`) },
  );
  for (const [code, words] of Object.entries(catalogue)) {
    const text = (words as (details: unknown) => { happened: string; safe: string; todo: string })(fields);
    expect(text.happened).toMatch(/^[A-Z<].*\.$/);
    for (const part of [text.safe, text.todo]) if (part) expect(part).toMatch(/^[A-Z].*\.$/);
    expect(`${code}: ${Object.values(text).join(' ')}`).not.toMatch(/undefined|\[object/);
  }
});

test('an error keeps its code, its words and its cause', () => {
  const cause = new Error('ENOENT');
  const error = new AppError('file-missing', { fileName: 'mix.wav' }, { cause });
  expect(isAppError(error, 'file-missing')).toBe(true);
  expect(isAppError(error, 'not-audio')).toBe(false);
  expect(error.cause).toBe(cause);
  expect(toErrorRecord(error)).toMatchObject({ code: 'file-missing', happened: expect.stringContaining('mix.wav') });
});

test('what is not ours is called unexpected and keeps its message', () => {
  expect(toErrorRecord(new TypeError('x is not a function'))).toMatchObject({
    code: 'unexpected',
    happened: expect.stringContaining('x is not a function'),
  });
  expect(toErrorRecord('text').code).toBe('unexpected');
});

test.each([
  ['a file system', Object.assign(new Error('write'), { code: 'ENOSPC' })],
  ['SQLite', Object.assign(new Error('database or disk is full'), { code: 'SQLITE_FULL' })],
  ['what a package wraps it in', new Error('query', { cause: Object.assign(new Error('x'), { code: 'SQLITE_FULL' }) })],
])('a full disk is told as such, where %s says so', (_, error) => {
  expect(toErrorRecord(error)).toMatchObject({
    code: 'disk-full',
    happened: expect.stringContaining('the disk is full'),
  });
});

test('what is gone by the time that something is stored of it is told as such', () => {
  const failed = Object.assign(new Error('FOREIGN KEY constraint failed'), { code: 'SQLITE_CONSTRAINT_FOREIGNKEY' });
  expect(toErrorRecord(new Error('query', { cause: failed })).code).toBe('not-found');
});
