import { alarm, channelNames } from './alarm';

/** What sounds on the others must be so much over what a lost channel stays under. */
const SOUNDS_OVER_DB = 10;

export const channelLost = alarm({
  kind: 'channel-lost',
  name: 'Channel lost',
  words: 'A channel stays under a level while others sound. LFE is left out.',
  isUsual: true,
  settings: {
    under: { label: 'Under', unit: 'dBTP', least: -120, most: -20, usual: -70 },
    seconds: { label: 'For', unit: 's', least: 1, most: 600, usual: 5 },
  },
  holds({ readings: { peaks } }, { settings: { under }, layout }) {
    const watched = layout.channels.flatMap(({ weight }, c) => (weight > 0 ? [c] : []));
    const levelOf = (c: number) => peaks[c]?.nowDbtp ?? Number.NEGATIVE_INFINITY;
    const channels = watched.filter((c) => levelOf(c) < under);
    const isHeard = watched.some((c) => levelOf(c) > under + SOUNDS_OVER_DB);
    return isHeard && channels.length > 0 ? { by: null, channels } : null;
  },
  say: ({ channels }, labels) =>
    `${channels.length === 1 ? 'channel' : 'channels'} ${channelNames(channels, labels)} lost`,
});
