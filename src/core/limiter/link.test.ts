import { channelLayout } from '../loudness/channel-layout';
import { hasPositions, layoutGroups } from './link';

const layoutOf = (id: '5.1' | '7.1.4' | '22.2' | 'stereo') => {
  const channels = { stereo: 2, '5.1': 6, '7.1.4': 12, '22.2': 24 }[id];
  return channelLayout(channels, 0, id);
};
/** Groups by the labels of their channels. */
const labelled = (id: Parameters<typeof layoutOf>[0], linking: Parameters<typeof layoutGroups>[1]) => {
  const layout = layoutOf(id);
  return layoutGroups(layout, linking).map(({ channels }) => channels.map((c) => layout.channels[c]?.label).join(' '));
};

test('by position, front, surround and height are linked among themselves; the low-frequency channel goes with the front', () => {
  const linking = { link: 1, lfe: 'linked', linkGroups: 'by-position' } as const;
  expect(labelled('5.1', linking)).toEqual(['L R C LFE', 'Ls Rs']);
  expect(labelled('7.1.4', linking)).toEqual(['L R C LFE', 'Lb Rb Lss Rss', 'Ltf Rtf Ltb Rtb']);
  expect(labelled('22.2', linking)).toEqual([
    'Lw Rw C LFE1 L R LFE2 Cbf Lbf Rbf',
    'Lb Rb Cb Lss Rss',
    'Ltf Rtf Ctf T Ltb Rtb Lts Rts Ctb',
  ]);
  expect(labelled('7.1.4', { ...linking, lfe: 'apart' })).toEqual(['L R C', 'Lb Rb Lss Rss', 'Ltf Rtf Ltb Rtb', 'LFE']);
});

test('with less than all of the link each channel is a group, linked within its position', () => {
  const groups = layoutGroups(layoutOf('5.1'), { link: 0.5, lfe: 'apart', linkGroups: 'by-position' });
  const domains = new Map(groups.map(({ channels: [channel = -1], domain }) => [channel, domain]));
  expect(groups).toHaveLength(6);
  expect(domains.get(0)).toBe(domains.get(2));
  expect(domains.get(4)).toBe(domains.get(5));
  expect(new Set(domains.values()).size).toBe(3);
});

test('without it all are linked as before, and where there is one position it makes no difference', () => {
  expect(labelled('7.1.4', { link: 1, lfe: 'linked' })).toHaveLength(1);
  expect(labelled('stereo', { link: 1, lfe: 'linked', linkGroups: 'by-position' })).toEqual(['L R']);
  expect((['stereo', '5.1', '7.1.4'] as const).map((id) => hasPositions(layoutOf(id)))).toEqual([false, true, true]);
});
