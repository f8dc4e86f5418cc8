import { tone } from '../tests/fixtures/signals';
import { wavOf } from '../tests/fixtures/wav';

const RATE = 48_000;

const bursts = tone([{ seconds: 8, levelDbfs: -20 }], RATE, 440).map((x, n) =>
  n % RATE > 40_000 && n % RATE < 40_300 ? 0.85 * Math.sin(n / 9) : x,
);
/** Soft, with a short loud burst each second: gain alone stops some 6 LU short of a stream's target. */
export const BURSTS = wavOf([bursts, bursts]);
