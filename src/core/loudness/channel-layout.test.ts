import { channelLayout, LAYOUT_IDS, layoutsOf } from './channel-layout';

const weights = (count: number, mask?: number) => channelLayout(count, mask).channels.map(({ weight }) => weight);

/** ITU-R BS.1770-5 (from memory): 1.41 for 60° ≤ |azimuth| ≤ 120° on the horizontal plane, LFE left out. */
test.each([
  ['mono', 1, undefined, [1]],
  ['stereo', 2, undefined, [1, 1]],
  ['quad', 4, undefined, [1, 1, 1.41, 1.41]],
  ['5.0', 5, undefined, [1, 1, 1, 1.41, 1.41]],
  ['5.1', 6, undefined, [1, 1, 1, 0, 1.41, 1.41]],
  ['5.1', 6, 0x60f, [1, 1, 1, 0, 1.41, 1.41]],
  ['LCR', 3, undefined, [1, 1, 1]],
  ['7.1', 8, undefined, [1, 1, 1, 0, 1, 1, 1.41, 1.41]],
  ['5.1.4', 10, 0x2d60f, [1, 1, 1, 0, 1.41, 1.41, 1, 1, 1, 1]],
  ['7.1.4', 12, 0x2d63f, [1, 1, 1, 0, 1, 1, 1.41, 1.41, 1, 1, 1, 1]],
  ['22.2', 24, undefined, [1.41, 1.41, 1, 0, 1, 1, 1, 1, 1, 0, 1.41, 1.41, ...new Array(12).fill(1)]],
])('%s of %i channels (mask %s) weighs %j', (name, count, mask, expected) => {
  expect(channelLayout(count, mask).name).toBe(name);
  expect(weights(count, mask)).toEqual(expected);
});

test('a mask that names too few loudspeakers is not believed; one that names too many gives its first', () => {
  expect(channelLayout(2, 0x4).name).toBe('stereo');
  expect(channelLayout(2, 0x3f).channels.map(({ label }) => label)).toEqual(['L', 'R']);
  expect(channelLayout(3, 0xb).channels.map(({ label }) => label)).toEqual(['L', 'R', 'LFE']);
});

test('every number of channels from one to 24 has a layout of that many', () => {
  for (let count = 1; count <= 24; count++) expect(channelLayout(count).channels).toHaveLength(count);
});

test('a layout chosen by hand goes before the file’s mask, unless it has another number of channels', () => {
  expect(channelLayout(6, 0x3f, '5.1-film').channels.map(({ label }) => label)).toEqual([
    'L',
    'C',
    'R',
    'Ls',
    'Rs',
    'LFE',
  ]);
  expect(channelLayout(6, 0x3f, '5.1-film').mask).toBe(0);
  expect(channelLayout(2, 0x3, '5.1-film').name).toBe('stereo');
});

test('each layout can be chosen for its number of channels', () => {
  for (const id of LAYOUT_IDS) {
    const layout = LAYOUT_IDS.flatMap((_, i) => layoutsOf(i + 1).concat(layoutsOf(24))).find(
      (entry) => entry.id === id,
    );
    expect(layout).toBeDefined();
  }
});
