import { formatNumber } from '../../units/format';
import { alarm, channelNames } from './alarm';

/** As verdicts have it: less is rounding. */
const LEAST_OVER_DB = 0.001;

export const over = alarm({
  kind: 'over',
  name: 'Over',
  words: 'The true peak is over the ceiling of the spec.',
  isUsual: true,
  settings: {},
  holds({ readings: { peaks } }, { spec: { peak } }) {
    const limitDb = peak.ceiling + peak.allowanceDb + LEAST_OVER_DB;
    const channels = peaks.flatMap(({ nowDbtp }, c) => (nowDbtp !== null && nowDbtp > limitDb ? [c] : []));
    if (channels.length === 0) return null;
    return {
      by: Math.max(...channels.map((c) => peaks[c]?.nowDbtp ?? Number.NEGATIVE_INFINITY)) - peak.ceiling,
      channels,
    };
  },
  say: ({ by, channels }, labels) => `${formatNumber(by ?? 0)} dB over the ceiling (${channelNames(channels, labels)})`,
});
