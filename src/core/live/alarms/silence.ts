import { alarm, NO_DETAIL } from './alarm';

export const silence = alarm({
  kind: 'silence',
  name: 'Silence',
  words: 'Every channel stays under a level.',
  isUsual: true,
  settings: {
    under: { label: 'Under', unit: 'dBTP', least: -120, most: -20, usual: -60 },
    seconds: { label: 'For', unit: 's', least: 1, most: 600, usual: 10 },
  },
  holds: ({ readings: { peaks } }, { settings: { under } }) =>
    peaks.every(({ nowDbtp }) => nowDbtp === null || nowDbtp < under) ? NO_DETAIL : null,
  say: () => 'silence',
});
