/** EBU Tech 3342, minimum requirements test signals (from memory): stereo 1 kHz tones of 20 s each, ±1 LU. */
import { measure, stereo, tone } from '../fixtures/signals';

const RATES_HZ = [44_100, 48_000, 88_200, 96_000, 192_000];

describe.each(RATES_HZ)('EBU Tech 3342 at %i Hz', (rate) => {
  test.each([
    [1, [-20, -30], 10],
    [2, [-20, -15], 5],
    [3, [-40, -20], 20],
    [4, [-50, -35, -20, -35, -50], 15],
  ])('case %i: tones at %j have a loudness range of %i LU', (_, levels, expectedLu) => {
    const samples = tone(
      levels.map((levelDbfs) => ({ seconds: 20, levelDbfs })),
      rate,
    );
    const { readings } = measure(stereo(samples), rate);
    // Far inside the published ±1 LU: the levels stand still but for the 3 s of each step.
    expect(Math.abs((readings.loudnessRangeLu ?? Number.NaN) - expectedLu)).toBeLessThanOrEqual(0.1);
    expect((readings.loudnessRangeHighLufs ?? Number.NaN) - (readings.loudnessRangeLowLufs ?? Number.NaN)).toBeCloseTo(
      readings.loudnessRangeLu ?? Number.NaN,
      10,
    );
  });
});
