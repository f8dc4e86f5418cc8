import type { PairFigures } from '../inspection/pair-figures';
import { powerToLufs } from '../loudness/gating';
import type { Measurement } from '../loudness/programme';
import { formatNumber } from '../units/format';
import { advice, breach, type Finding, type Place } from './finding';

/** A mean beyond this is worth removing, 50 dB below full scale (common practice, no source). */
const LEAST_DC_OFFSET = 0.003;
/** Of what never gets louder, rounding alone may make channels alike. */
const LEAST_COMPARED_DBFS = -50;
/** A side that is so much louder over the whole programme is seldom meant (common practice, no source). */
const LEAST_IMBALANCE_LU = 3;
/** Wide mixes and rooms come near to 0; below this, a side is turned or delayed (common practice, no source). */
const MOST_CORRELATION = -0.3;

/**
 * What is wrong between channels, or in one of them.
 *
 * @param frames of the whole programme
 */
export function channelFindings(measurement: Measurement, figures: PairFigures | null, frames: number): Finding[] {
  const { readings, series, pair } = measurement;
  const { perChannel, samplePeakDbfs } = readings;
  if (samplePeakDbfs === null) return [];
  const found: Finding[] = [];
  const whole = (channels: readonly { label: string }[]) =>
    channels.map(({ label }): Place => ({ startFrame: 0, frames, channel: label }));
  const silent = perChannel.filter((channel) => channel.samplePeakDbfs === null && channel.label !== 'LFE');
  if (silent.length > 0) {
    const kind = perChannel.length === 2 ? breach : advice;
    found.push(
      kind(
        'silent-channel',
        `${silent.map(({ label }) => label).join(', ')}: digital silence throughout, while other channels carry sound. Was a channel lost?`,
        whole(silent),
      ),
    );
  }
  const isLoudEnough = samplePeakDbfs > LEAST_COMPARED_DBFS;
  if (pair === 'same' && isLoudEnough) {
    found.push(advice('same-channels', 'Both channels are identical: dual mono. Was stereo intended?'));
  } else if (pair === 'inverted' && isLoudEnough) {
    found.push(breach('inverted-polarity', 'One channel has inverted polarity; mono cancels. Invert one channel.'));
  } else if (pair === 'different' && isLoudEnough && figures && figures.correlation <= MOST_CORRELATION) {
    found.push(
      breach(
        'works-against',
        `The channels cancel in mono: correlation ${formatNumber(figures.correlation, 2)} at the loudest place, ${formatNumber(figures.monoLossDb)} dB lost in mono. Is the polarity of one inverted?`,
      ),
    );
  }
  found.push(
    ...imbalance(
      series.energies,
      perChannel.map(({ label }) => label),
    ),
  );
  const shifted = perChannel.filter(({ dcOffset }) => Math.abs(dcOffset) >= LEAST_DC_OFFSET);
  if (shifted.length > 0) {
    const values = shifted.map(({ label, dcOffset }) => `${label} ${formatNumber(dcOffset * 100, 2)} %`);
    found.push(
      advice(
        'dc-offset',
        `DC offset (${values.join(', ')} of full scale). It costs headroom, and clicks at edits.`,
        whole(shifted),
      ),
    );
  }
  return found;
}

/** Left against right, wherever a layout has both. */
function imbalance(energies: readonly Float64Array[], labels: readonly string[]): Finding[] {
  const [left, right] = ['L', 'R'].map((label) => meanLufs(energies[labels.indexOf(label)]));
  if (left == null || right == null) return [];
  const byLu = left - right;
  if (Math.abs(byLu) < LEAST_IMBALANCE_LU) return [];
  const [louder, softer] = byLu > 0 ? ['L', 'R'] : ['R', 'L'];
  return [
    advice(
      'out-of-balance',
      `${louder} is ${formatNumber(Math.abs(byLu))} LU louder than ${softer} over the whole programme. Is that intended?`,
    ),
  ];
}

function meanLufs(powers: Float64Array | undefined) {
  if (!powers || powers.length === 0) return null;
  return powerToLufs(powers.reduce((sum, power) => sum + power, 0) / powers.length);
}
