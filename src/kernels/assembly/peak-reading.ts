/* As in core/peak/peak-reading: the same additions in the same order. */
const PHASES: i32 = 16;
const TAPS: i32 = 320;
/** Samples around a peak, one behind the other; its frame is the one at READING_BEFORE. */
export const READING_BEFORE: i32 = 164;
export const READING_FRAMES: i32 = 328;
const line = memory.data(328 * 4, 16);

/** Where the loader has put the phases 1 to 15. */
let taps: usize = 0;

export function setReading(tapsAt: usize): void {
  taps = tapsAt;
}

/**
 * Magnitude of the peak at a frame or between it and the next.
 *
 * @param from the sample READING_BEFORE frames earlier; one stands every `step` bytes
 * @param beyondSixteenths by how many sixteenths the peak may lie outside the two samples
 */
export function readPeak(from: usize, step: usize, beyondSixteenths: i32): f64 {
  lineUp(from, step);
  const least = PHASES * READING_BEFORE - beyondSixteenths;
  const most = PHASES * (READING_BEFORE + 1) + beyondSixteenths;
  let place = PHASES * READING_BEFORE + startOf();
  let value = valueAt(place);
  const turn: f64 = value < 0 ? -1 : 1;
  value *= turn;
  let before = turn * valueAt(place - 1);
  let behind = turn * valueAt(place + 1);
  while (place > least && before > value && before > behind) {
    behind = value;
    value = before;
    place--;
    before = turn * valueAt(place - 1);
  }
  while (place < most && behind > value) {
    before = value;
    value = behind;
    place++;
    behind = turn * valueAt(place + 1);
  }
  if (before > value || behind > value) {
    return max(abs(sampleAt(READING_BEFORE)), abs(sampleAt(READING_BEFORE + 1)));
  }
  const bend = value - before + (value - behind);
  const lean = behind - before;
  return bend > 0 ? value + (lean * lean) / (8 * bend) : value;
}

function lineUp(from: usize, step: usize): void {
  for (let to = line, end = line + (READING_FRAMES << 2); to < end; to += 16, from += step << 2) {
    let four = v128.load_zero<f32>(from);
    four = v128.load_lane<f32>(from + step, four, 1);
    four = v128.load_lane<f32>(from + 2 * step, four, 2);
    v128.store(to, v128.load_lane<f32>(from + 3 * step, four, 3));
  }
}

/** About where the greatest magnitude stands, in sixteenths. */
function startOf(): i32 {
  const first = sampleAt(READING_BEFORE);
  const last = sampleAt(READING_BEFORE + 1);
  const middle = (9 * (first + last) - (sampleAt(READING_BEFORE - 1) + sampleAt(READING_BEFORE + 2))) / 16;
  const greatest = max(max(abs(first), abs(middle)), abs(last));
  const turn: f64 = greatest == first || greatest == middle || greatest == last ? 1 : -1;
  const bend = turn * (middle - first + (middle - last));
  const lean = turn * (last - first);
  if (bend <= 0) return lean > 0 ? PHASES : 0;
  const place = floor<f64>(<f64>(PHASES / 2) + <f64>(PHASES / 4) * (lean / bend) + 0.5);
  return <i32>max<f64>(0, min<f64>(<f64>PHASES, place));
}

@inline
function sampleAt(frame: i32): f64 {
  return <f64>load<f32>(line + (<usize>frame << 2));
}

/** The value at a place in the line, in sixteenths of a sample. */
function valueAt(place: i32): f64 {
  const frame = place >> 4;
  const phase = place & 15;
  if (phase == 0) return sampleAt(frame);
  let a = taps + <usize>((phase - 1) * TAPS * 4);
  let b = line + (<usize>(frame - TAPS / 2 + 1) << 2);
  let sum0 = f32x4.splat(0);
  let sum1 = sum0;
  let sum2 = sum0;
  let sum3 = sum0;
  for (const end = a + TAPS * 4; a < end; a += 64, b += 64) {
    sum0 = f32x4.add(sum0, f32x4.mul(v128.load(a), v128.load(b)));
    sum1 = f32x4.add(sum1, f32x4.mul(v128.load(a, 16), v128.load(b, 16)));
    sum2 = f32x4.add(sum2, f32x4.mul(v128.load(a, 32), v128.load(b, 32)));
    sum3 = f32x4.add(sum3, f32x4.mul(v128.load(a, 48), v128.load(b, 48)));
  }
  const sums = f32x4.add(f32x4.add(sum0, sum2), f32x4.add(sum1, sum3));
  const pairs = f32x4.add(sums, i8x16.shuffle(sums, sums, 8, 9, 10, 11, 12, 13, 14, 15, 8, 9, 10, 11, 12, 13, 14, 15));
  return <f64>(f32x4.extract_lane(pairs, 0) + f32x4.extract_lane(pairs, 1));
}
