import type { Measurement } from '../loudness/programme';
import type { Readings } from '../loudness/readings';
import { formatNumber } from '../units/format';
import type { Finding } from './finding';

/** A mean beyond this is worth removing, 50 dB below full scale (common practice, no source). */
const LEAST_DC_OFFSET = 0.003;

/** Of what never gets louder, rounding alone may make channels alike. */
const LEAST_COMPARED_DBFS = -50;

/** What is wrong between channels, or in one of them. */
export function channelFindings({ perChannel, samplePeakDbfs }: Readings, pair: Measurement['pair']): Finding[] {
  if (samplePeakDbfs === null) return [];
  const found: Finding[] = [];
  const silent = perChannel.filter((channel) => channel.samplePeakDbfs === null && channel.label !== 'LFE');
  if (silent.length > 0) {
    found.push({
      code: 'silent-channel',
      severity: perChannel.length === 2 ? 'breach' : 'advice',
      message: `${silent.map(({ label }) => label).join(', ')}: digital silence from beginning to end, while other channels sound. Ask whether a channel was lost.`,
    });
  }
  const isLoudEnough = samplePeakDbfs > LEAST_COMPARED_DBFS;
  if (pair === 'same' && isLoudEnough) {
    found.push({
      code: 'same-channels',
      severity: 'advice',
      message: 'Both channels are the same: one voice in two channels. Ask whether stereo was meant.',
    });
  }
  if (pair === 'inverted' && isLoudEnough) {
    found.push({
      code: 'inverted-polarity',
      severity: 'breach',
      message:
        'One channel is the other upside down: on one loudspeaker nothing of it is left. Turn the polarity of one.',
    });
  }
  const shifted = perChannel.filter(({ dcOffset }) => Math.abs(dcOffset) >= LEAST_DC_OFFSET);
  if (shifted.length > 0) {
    const values = shifted.map(({ label, dcOffset }) => `${label} ${formatNumber(dcOffset * 100, 2)} %`);
    found.push({
      code: 'dc-offset',
      severity: 'advice',
      message: `The waveform stands off the middle (${values.join(', ')} of full scale). That costs headroom, and clicks where it is cut.`,
    });
  }
  return found;
}
