import * as z from 'zod';
import { readingOldNames } from './old-names';

const schema = readingOldNames(z.strictObject({ trim: z.number().nullable(), gainDb: z.number() }), { keep: 'trim' });

test('reads the old name, the new one, and the new one where both are there in whatever order', () => {
  expect(schema.parse({ keep: 1, gainDb: 2 })).toEqual({ trim: 1, gainDb: 2 });
  expect(schema.parse({ trim: null, gainDb: 2 })).toEqual({ trim: null, gainDb: 2 });
  expect(schema.parse({ keep: 1, trim: 3, gainDb: 2 })).toEqual({ trim: 3, gainDb: 2 });
  expect(schema.parse({ trim: 3, keep: 1, gainDb: 2 })).toEqual({ trim: 3, gainDb: 2 });
});

test.each([null, 'text', 5, [1]])('%j is refused as it would be without', (value) => {
  expect(schema.safeParse(value).success).toBe(false);
});

test('is described by its new names', () => {
  expect(Object.keys(z.toJSONSchema(schema, { io: 'input' }).properties ?? {})).toEqual(['trim', 'gainDb']);
});
