import { DEFAULT_TEMPLATE, fileStem, foldersOf, formatFields, type NameFields, slug, unknownFields } from './file-name';

const FIELDS: NameFields = {
  title: 'Nightfall overture',
  spec: 'ebu-r128',
  rate: 44_100,
  version: 3,
  job: 'Quillmere Dome',
  format: '24bit',
  depth: '24bit',
  track: 2,
};

test.each([
  [DEFAULT_TEMPLATE, 'nightfall-overture_ebu-r128_v3'],
  ['{title}_{spec}_{rate}_{version}', 'nightfall-overture_ebu-r128_44k1_3'],
  ['{track} {title}.{format}', '2-nightfall-overture.24bit'],
  ['../{job}/{title}', 'nightfall-overture'],
  ['{nothing}', 'delivery'],
  ['{constructor}{toString}', 'delivery'],
  ['{title}_{depth}', 'nightfall-overture_24bit'],
  ['CON', 'delivery-CON'],
  ['nul.{version}', 'delivery-nul.3'],
  ['a:b*c?"<>|\u0000{version}.', 'a-b-c-3'],
])('%j makes %j', (template, stem) => {
  expect(fileStem(template, FIELDS)).toBe(stem);
});

test('letters of any script stay, and a long name stays within what file systems take', () => {
  expect(fileStem('{title}', { ...FIELDS, title: 'Überflug 星空' })).toBe('überflug-星空');
  const long = fileStem('{title}-{job}-{spec}', { ...FIELDS, title: '星'.repeat(99), job: '空'.repeat(99) });
  expect(Buffer.byteLength(long)).toBeLessThanOrEqual(200);
});

test('fields that stand for nothing are told', () => {
  expect(unknownFields('{title}_{tilte}_{}')).toEqual(['tilte', '']);
  expect(unknownFields(DEFAULT_TEMPLATE)).toEqual([]);
});

test.each([
  ['Nightfall overture', 'nightfall-overture'],
  ['Why is the sky dark?', 'why-is-the-sky-dark'],
  ['../..', 'programme'],
  ['CON: a/b\\c*', 'con-a-b-c'],
  ['mix_hot', 'mix_hot'],
  ['_draft_', 'draft'],
])('%j becomes %j in a file name', (title, part) => {
  expect(slug(title)).toBe(part);
});

test('what a format says in a name', () => {
  expect(formatFields({ bitDepth: 24, bitRateKbps: null })).toEqual({ format: '24bit', depth: '24bit' });
  expect(formatFields({ bitDepth: 32, bitRateKbps: null })).toEqual({ format: '32bit', depth: '32float' });
  expect(formatFields({ bitDepth: null, bitRateKbps: 192 })).toEqual({ format: '192k', depth: '' });
  expect(fileStem('{title}_{depth}', { ...FIELDS, depth: '' })).toBe('nightfall-overture');
});

test('a part of a file name stays within what file systems take', () => {
  expect(Buffer.byteLength(slug('🎵星'.repeat(200)))).toBeLessThanOrEqual(160);
});

test('slashes make folders, whose names every file system takes; what is behind the last is the file', () => {
  const template = '{spec}/ {title}: 1 //{title}_v{version}';
  const fields = { ...FIELDS, spec: 'ebu-r128', title: 'Night / fall', version: 2 };
  expect(foldersOf(template, fields)).toEqual(['ebu-r128', 'night-fall-1']);
  expect(fileStem(template, fields)).toBe('night-fall_v2');
  expect(foldersOf('../../{title}/x', fields)).not.toContain('..');
  expect(foldersOf('{title}', fields)).toEqual([]);
});
