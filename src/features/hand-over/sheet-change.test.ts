import { deliveryFormatSchema } from '@/core/delivery/format';
import { gainOnly } from '@/core/treatment/treatment';
import type { SheetSettings } from '@/server/deliveries/sheet-settings';
import { undoOf } from './sheet-change';

const row = (id: string, specId = 'ebu-r128'): SheetSettings['rows'][number] => ({
  id,
  specId,
  format: deliveryFormatSchema.parse({ kind: 'wav' }),
  levelMode: { kind: 'as-set' },
  trim: null,
  edges: null,
  receiverId: null,
});
const BEFORE: SheetSettings = {
  rows: [row('a'), row('b'), row('c')],
  programmes: [{ id: 'p', tags: null, treatment: gainOnly(-2) }],
  nameTemplate: null,
};

test('only what is different is taken back', () => {
  const after = { ...BEFORE, rows: [row('a'), row('b', 'podcast'), row('d')], nameTemplate: '{title}' };
  expect(undoOf(BEFORE, after)).toEqual({
    rows: [row('b'), row('c')],
    programmes: [],
    added: ['d'],
    nameTemplate: null,
  });
});

test('treatments and tags are taken back by programme', () => {
  const after = { ...BEFORE, programmes: [{ id: 'p', tags: null, treatment: gainOnly(0) }] };
  expect(undoOf(BEFORE, after)).toEqual({ rows: [], programmes: BEFORE.programmes, added: [] });
});

test('where nothing has changed there is nothing to take back', () => {
  expect(undoOf(BEFORE, structuredClone(BEFORE))).toBeUndefined();
});
