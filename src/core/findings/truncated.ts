import { breach, defineFinding, timeOf } from './finding';

export const truncated = defineFinding({
  code: 'truncated',
  criterion: 'the header promises more than the file holds',
  short: () => 'truncated',
  look(looked) {
    const { frames, missingFrames } = looked.facts;
    if (missingFrames === 0) return null;
    const [promised, held, missing] = [frames + missingFrames, frames, missingFrames].map((n) => timeOf(n, looked));
    return breach(
      `The header promises ${promised}, the file holds ${held}: the last ${missing} are missing. The rest was read.`,
      [{ startFrame: frames, frames: missingFrames, channel: null }],
    );
  },
});
