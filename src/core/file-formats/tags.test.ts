import { formatIsrc, parseIsrc, tagsSchema } from './tags';

// The example of ISO 3901 itself, from memory.
test('an ISRC is read with or without hyphens, and refused where it is none', () => {
  expect(parseIsrc('US-RC1-76-07839')).toBe('USRC17607839');
  expect(parseIsrc('usrc17607839')).toBe('USRC17607839');
  expect(formatIsrc('USRC17607839')).toBe('US-RC1-76-07839');
  for (const wrong of ['', 'US-RC1-76-0783', 'U1-RC1-76-07839', 'US-RC1-7A-07839', 'US-RC1-76-078390']) {
    expect(parseIsrc(wrong)).toBeUndefined();
  }
});

test('tags are trimmed and checked', () => {
  expect(tagsSchema.parse({ title: ' Dome ', track: '3/8', isrc: 'us-rc1-76-07839' })).toMatchObject({
    title: 'Dome',
    track: '3/8',
    isrc: 'USRC17607839',
    artist: '',
  });
  for (const wrong of [{ track: 'three' }, { year: '26' }, { isrc: 'nothing' }]) {
    expect(tagsSchema.safeParse(wrong).success).toBe(false);
  }
});
