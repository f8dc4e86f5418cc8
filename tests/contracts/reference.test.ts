/** The reference in the docs is what the lists of the app say. */
import { readFileSync } from 'node:fs';
import { reference } from '@/server/reference';

test('docs/reference.md is what `npm run docs` writes', () => {
  expect(readFileSync('docs/reference.md', 'utf8')).toBe(reference());
});
