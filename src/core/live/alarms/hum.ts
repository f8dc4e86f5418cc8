import { formatNumber } from '../../units/format';
import { alarm } from './alarm';

export const hum = alarm({
  kind: 'hum',
  name: 'Hum',
  words: 'A steady tone of 50 or 60 Hz and its multiples is over a level.',
  isUsual: false,
  settings: {
    over: { label: 'Over', unit: 'dBFS', least: -100, most: -20, usual: -60 },
    seconds: { label: 'For', unit: 's', least: 3, most: 3600, usual: 20 },
  },
  holds: ({ humDbfs }, { settings }) =>
    humDbfs !== null && humDbfs > settings.over ? { by: humDbfs, channels: [] } : null,
  say: ({ by }) => `hum${by === null ? '' : ` of ${formatNumber(by)} dBFS`}`,
});
