import { channelLayout } from './channel-layout';

const weights = (count: number, mask?: number) => channelLayout(count, mask).channels.map(({ weight }) => weight);

/** ITU-R BS.1770-5 (from memory): 1.41 for 60° ≤ |azimuth| ≤ 120° on the horizontal plane, LFE left out. */
test.each([
  ['mono', 1, undefined, [1]],
  ['stereo', 2, undefined, [1, 1]],
  ['quad', 4, undefined, [1, 1, 1.41, 1.41]],
  ['5.0', 5, undefined, [1, 1, 1, 1.41, 1.41]],
  ['5.1', 6, undefined, [1, 1, 1, 0, 1.41, 1.41]],
  ['5.1', 6, 0x60f, [1, 1, 1, 0, 1.41, 1.41]],
  ['7.1', 8, undefined, [1, 1, 1, 0, 1, 1, 1.41, 1.41]],
])('%s of %i channels (mask %s) weighs %j', (name, count, mask, expected) => {
  expect(channelLayout(count, mask).name).toBe(name);
  expect(weights(count, mask)).toEqual(expected);
});

test('a mask that names too few loudspeakers is not believed; one that names too many gives its first', () => {
  expect(channelLayout(2, 0x4).name).toBe('stereo');
  expect(channelLayout(2, 0x3f).channels.map(({ label }) => label)).toEqual(['L', 'R']);
  expect(channelLayout(3, 0xb).channels.map(({ label }) => label)).toEqual(['L', 'R', 'LFE']);
});

test('every number of channels from one to eight has a layout of that many', () => {
  for (let count = 1; count <= 8; count++) expect(channelLayout(count).channels).toHaveLength(count);
});
