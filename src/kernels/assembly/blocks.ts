import { BINS_PER_SECOND, BLOCK, Channel, gridFrame } from './channel';
import { FULL_SCALE, scanRuns } from './clipped-runs';
import { admit } from './true-peak';
import { across, greatest, least, square, upper } from './vectors';

const WAVEFORM_BLOCKS: i32 = 16;

/** Peaks, sums, waveform and clipped runs of the next block, of which `count` frames are real. */
export function takeBlock(channel: Channel, at: usize, block: i32, count: i32): void {
  let low = load<f32>(at);
  let high = low;
  let sum: f64 = 0;
  let squares: f64 = 0;
  if (count == BLOCK) {
    const x0 = v128.load(at);
    const x1 = v128.load(at, 16);
    const x2 = v128.load(at, 32);
    const x3 = v128.load(at, 48);
    low = least(f32x4.pmin(f32x4.pmin(x0, x1), f32x4.pmin(x2, x3)));
    high = greatest(f32x4.pmax(f32x4.pmax(x0, x1), f32x4.pmax(x2, x3)));
    const l0 = f64x2.promote_low_f32x4(x0);
    const l1 = f64x2.promote_low_f32x4(x1);
    const l2 = f64x2.promote_low_f32x4(x2);
    const l3 = f64x2.promote_low_f32x4(x3);
    const r0 = upper(x0);
    const r1 = upper(x1);
    const r2 = upper(x2);
    const r3 = upper(x3);
    sum = across(f64x2.add(f64x2.add(f64x2.add(l0, r0), f64x2.add(l1, r1)), f64x2.add(f64x2.add(l2, r2), f64x2.add(l3, r3))));
    squares = across(
      f64x2.add(
        f64x2.add(f64x2.add(square(l0), square(r0)), f64x2.add(square(l1), square(r1))),
        f64x2.add(f64x2.add(square(l2), square(r2)), f64x2.add(square(l3), square(r3))),
      ),
    );
  } else {
    for (let i = 0; i < count; i++) {
      const x = load<f32>(at + (i << 2));
      low = min(low, x);
      high = max(high, x);
      sum += <f64>x;
      squares += <f64>x * <f64>x;
    }
  }
  const magnitude = high > -low ? high : -low;
  channel.sum += sum;
  addSquares(channel, at, count, squares);

  if (magnitude > channel.peak) {
    channel.peak = magnitude;
    let i = 0;
    while (abs(load<f32>(at + (i << 2))) != magnitude) i++;
    channel.peakFrame = <f64>(channel.frame + i);
  }

  if (low < channel.low) channel.low = low;
  if (high > channel.high) channel.high = high;
  channel.waveBlocks++;
  if (channel.waveBlocks == WAVEFORM_BLOCKS) closeBucket(channel);

  if (magnitude >= FULL_SCALE || channel.runLength > 0) scanRuns(channel, at, count);
  admit(channel, at, block, magnitude);
}

/** core/peak/sample-statistics: the squares of every complete 100 ms. */
function addSquares(channel: Channel, at: usize, count: i32, squares: f64): void {
  const binEnd = channel.squareBinEnd;
  if (channel.frame + count < binEnd) {
    channel.squares += squares;
    return;
  }
  const before = <i32>(binEnd - channel.frame);
  let running = channel.squares;
  for (let i = 0; i < before; i++) {
    const x = <f64>load<f32>(at + (i << 2));
    running += x * x;
  }
  store<f64>(channel.binSquares + (channel.squareCount << 3), running);
  channel.squareCount++;
  channel.squareBin++;
  channel.squareBinEnd = gridFrame(channel.squareBin + 1, BINS_PER_SECOND, channel.rate);
  running = 0;
  for (let i = before; i < count; i++) {
    const x = <f64>load<f32>(at + (i << 2));
    running += x * x;
  }
  channel.squares = running;
}

/** core/loudness/waveform. */
export function closeBucket(channel: Channel): void {
  store<f32>(channel.waveMin + (channel.waveCount << 2), channel.low);
  store<f32>(channel.waveMax + (channel.waveCount << 2), channel.high);
  channel.waveCount++;
  channel.waveBlocks = 0;
  channel.low = <f32>Infinity;
  channel.high = <f32>-Infinity;
}
