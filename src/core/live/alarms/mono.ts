import { alarm, NO_DETAIL } from './alarm';

/** Two channels whose difference is so far under their sum are the same. */
const SAME_DB = -60;

export const mono = alarm({
  kind: 'mono',
  name: 'Mono',
  words: 'Left and right carry the same sound.',
  isUsual: false,
  settings: { seconds: { label: 'For', unit: 's', least: 1, most: 3600, usual: 30 } },
  holds: ({ sideDb }) => (sideDb !== null && sideDb < SAME_DB ? NO_DETAIL : null),
  say: () => 'left and right are the same',
});
