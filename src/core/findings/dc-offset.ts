import { formatNumber } from '../units/format';
import { advice, defineFinding } from './finding';

/** A mean beyond this is worth removing, 50 dB below full scale (common practice, no source). */
const LEAST_DC_OFFSET = 0.003;

export const dcOffset = defineFinding({
  code: 'dc-offset',
  step: 'removeDc',
  criterion: 'a channel’s mean is 0.3 % of full scale or more',
  look({ readings: { perChannel }, facts }) {
    const shifted = perChannel.filter(({ dcOffset }) => Math.abs(dcOffset) >= LEAST_DC_OFFSET);
    if (shifted.length === 0) return null;
    const values = shifted.map(({ label, dcOffset }) => `${label} ${formatNumber(dcOffset * 100, 2)} %`);
    return advice(
      `DC offset (${values.join(', ')} of full scale). It costs headroom, and clicks at edits.`,
      shifted.map(({ label }) => ({ startFrame: 0, frames: facts.frames, channel: label })),
    );
  },
});
