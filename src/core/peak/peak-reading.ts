import { PHASES, phaseTaps, READING } from './interpolator';

const { abs, floor, fround, max, min } = Math;

/** Samples around the frame of a peak within which all lies that a reading looks at; kernels take them four at a time. */
export const READING_BEFORE = READING.taps / 2 + 4;
export const READING_BEHIND = READING.taps / 2 + 3;

/** The phases 1 to 15, one behind the other. */
export const READING_TAPS = new Float32Array((PHASES - 1) * READING.taps);
for (let phase = 1; phase < PHASES; phase++) {
  READING_TAPS.set(phaseTaps(phase / PHASES, READING), (phase - 1) * READING.taps);
}

/**
 * Magnitude of the peak that a search has found at a frame or between it and the next: sixteenth by sixteenth to the greatest
 * value that the long interpolator gives, and there the vertex of the parabola through it and its neighbours. So it reads what
 * stands close to half the sample rate, and what lies between two phases.
 *
 * @param samples with READING_BEFORE of them before the frame, and READING_BEHIND behind it
 * @param beyondSixteenths by how many sixteenths of a sample, at most 16, the peak may lie outside the two samples: where it does not, only what is
 *   between them counts
 */
export function readPeak(samples: Float32Array, frame: number, beyondSixteenths: number): number {
  const least = PHASES * frame - beyondSixteenths;
  const most = PHASES * (frame + 1) + beyondSixteenths;
  let place = PHASES * frame + startOf(samples, frame);
  let value = valueAt(samples, place);
  const turn = value < 0 ? -1 : 1;
  value *= turn;
  let before = turn * valueAt(samples, place - 1);
  let behind = turn * valueAt(samples, place + 1);
  while (place > least && before > value && before > behind) {
    behind = value;
    value = before;
    place--;
    before = turn * valueAt(samples, place - 1);
  }
  while (place < most && behind > value) {
    before = value;
    value = behind;
    place++;
    behind = turn * valueAt(samples, place + 1);
  }
  // It goes on rising out of reach.
  if (before > value || behind > value) return max(abs(samples[frame] ?? 0), abs(samples[frame + 1] ?? 0));
  const bend = value - before + (value - behind);
  const lean = behind - before;
  return bend > 0 ? value + (lean * lean) / (8 * bend) : value;
}

/** About where the greatest magnitude stands, in sixteenths, by both samples and a cubic through four for the middle. */
function startOf(samples: Float32Array, frame: number): number {
  const first = samples[frame] ?? 0;
  const last = samples[frame + 1] ?? 0;
  const middle = (9 * (first + last) - ((samples[frame - 1] ?? 0) + (samples[frame + 2] ?? 0))) / 16;
  const greatest = max(abs(first), abs(middle), abs(last));
  const turn = greatest === first || greatest === middle || greatest === last ? 1 : -1;
  const bend = turn * (middle - first + (middle - last));
  const lean = turn * (last - first);
  if (bend <= 0) return lean > 0 ? PHASES : 0;
  return max(0, min(PHASES, floor(PHASES / 2 + (PHASES / 4) * (lean / bend) + 0.5)));
}

/** Running sums of a kernel, in four vectors of four. */
const SUMS = 16;
const sums = new Float32Array(SUMS);

/** The value at a place in sixteenths of a sample, in f32 as the kernel computes it: the same additions in the same order. */
function valueAt(samples: Float32Array, place: number): number {
  const frame = place >> 4;
  const phase = place & 15;
  if (phase === 0) return samples[frame] ?? 0;
  const tap = (phase - 1) * READING.taps;
  const first = frame - READING.taps / 2 + 1;
  sums.fill(0);
  for (let i = 0; i < READING.taps; i++) {
    const product = fround((READING_TAPS[tap + i] ?? 0) * (samples[first + i] ?? 0));
    sums[i % SUMS] = (sums[i % SUMS] ?? 0) + product;
  }
  for (let width = SUMS / 2; width >= 1; width /= 2) {
    for (let i = 0; i < width; i++) sums[i] = (sums[i] ?? 0) + (sums[i + width] ?? 0);
  }
  return sums[0] ?? 0;
}
