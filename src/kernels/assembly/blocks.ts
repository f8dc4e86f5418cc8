import { BLOCK, Channel } from './channel';
import { FULL_SCALE, scanRuns } from './clipped-runs';
import { greatest, least } from './vectors';

/** Blocks whose maxima are taken together, each in its lane. */
export const GROUP: i32 = 4;
const WAVEFORM_BLOCKS: i32 = 16;

/** |x[i] − 2x[i + 1] + x[i + 2]| of four samples from `at` on: the curvature around the sample behind each. */
@inline
export function bend(at: usize): v128 {
  const middle = v128.load(at, 4);
  return f32x4.abs(f32x4.add(f32x4.sub(v128.load(at), f32x4.add(middle, middle)), v128.load(at, 8)));
}

/** The greatest curvature, in each lane, that the samples of the block at `at` close. */
@inline
function bendOfBlock(at: usize): v128 {
  const from = at - 8;
  return f32x4.pmax(f32x4.pmax(bend(from), bend(from + 16)), f32x4.pmax(bend(from + 32), bend(from + 48)));
}

/** Where each block's vectors of magnitude and curvature wait to be reduced together. */
const scratch = memory.data(2 * 4 * 16, 16);

/** Peaks, waveform and clipped runs of the piece's whole blocks, and the maxima that the search for true peaks asks for. */
export function takeBlocks(channel: Channel, blocks: i32): void {
  let low = v128.load(changetype<usize>(channel) + offsetof<Channel>('low0'));
  let high = v128.load(changetype<usize>(channel) + offsetof<Channel>('high0'));
  let waveBlocks = channel.waveBlocks;
  for (let block = 0; block < blocks; block += GROUP) {
    const count = min<i32>(GROUP, blocks - block);
    if (count < GROUP) memory.fill(scratch, 0, 2 * 4 * 16);
    const start = channel.samples + ((block * BLOCK) << 2);
    for (let i = 0, at = start; i < count; i++, at += BLOCK << 2) {
      const x0 = v128.load(at);
      const x1 = v128.load(at, 16);
      const x2 = v128.load(at, 32);
      const x3 = v128.load(at, 48);
      const blockLow = f32x4.pmin(f32x4.pmin(x0, x1), f32x4.pmin(x2, x3));
      const blockHigh = f32x4.pmax(f32x4.pmax(x0, x1), f32x4.pmax(x2, x3));
      low = f32x4.pmin(low, blockLow);
      high = f32x4.pmax(high, blockHigh);
      v128.store(scratch + (i << 4), f32x4.pmax(blockHigh, f32x4.neg(blockLow)));
      v128.store(scratch + (i << 4), bendOfBlock(at), 64);
      if (++waveBlocks == WAVEFORM_BLOCKS) {
        closeBucket(channel, least(low), greatest(high));
        waveBlocks = 0;
        low = f32x4.splat(<f32>Infinity);
        high = f32x4.splat(<f32>-Infinity);
      }
    }
    const magnitudes = greatestOfEach(scratch);
    v128.store(channel.magnitudes + ((block + 2) << 2), magnitudes);
    v128.store(channel.curvatures + ((block + 2) << 2), greatestOfEach(scratch + 64));
    const magnitude = greatest(magnitudes);
    if (magnitude > channel.peak) takePeak(channel, start, block * BLOCK, magnitude);
    if (magnitude >= FULL_SCALE || channel.runLength > 0) scanRuns(channel, start, block * BLOCK, count * BLOCK);
  }
  v128.store(changetype<usize>(channel) + offsetof<Channel>('low0'), low);
  v128.store(changetype<usize>(channel) + offsetof<Channel>('high0'), high);
  channel.waveBlocks = waveBlocks;
}

/** The segment's last frames where they fill no block; behind them stands silence. */
export function takeRest(channel: Channel, block: i32, count: i32): void {
  const start = channel.samples + ((block * BLOCK) << 2);
  let low = load<f32>(start);
  let high = low;
  for (let i = 1; i < count; i++) {
    const x = load<f32>(start + (i << 2));
    if (x < low) low = x;
    if (x > high) high = x;
  }
  const magnitude = high > -low ? high : -low;
  admit(channel, block);
  if (magnitude > channel.peak) takePeak(channel, start, block * BLOCK, magnitude);
  if (magnitude >= FULL_SCALE || channel.runLength > 0) scanRuns(channel, start, block * BLOCK, count);
  const at = changetype<usize>(channel);
  v128.store(at + offsetof<Channel>('low0'), f32x4.pmin(v128.load(at + offsetof<Channel>('low0')), f32x4.splat(low)));
  v128.store(at + offsetof<Channel>('high0'), f32x4.pmax(v128.load(at + offsetof<Channel>('high0')), f32x4.splat(high)));
  channel.waveBlocks++;
}

/** The maxima of a block beside the segment, or of one that it does not fill. */
export function admit(channel: Channel, block: i32): void {
  const at = channel.samples + ((block * BLOCK) << 2);
  const x0 = f32x4.abs(v128.load(at));
  const x1 = f32x4.abs(v128.load(at, 16));
  const x2 = f32x4.abs(v128.load(at, 32));
  const x3 = f32x4.abs(v128.load(at, 48));
  store<f32>(channel.magnitudes + ((block + 2) << 2), greatest(f32x4.pmax(f32x4.pmax(x0, x1), f32x4.pmax(x2, x3))));
  store<f32>(channel.curvatures + ((block + 2) << 2), greatest(bendOfBlock(at)));
}

/** core/loudness/waveform: the open bucket, if anything is in it. */
export function closeLastBucket(channel: Channel): void {
  if (channel.waveBlocks == 0) return;
  const at = changetype<usize>(channel);
  closeBucket(channel, least(v128.load(at + offsetof<Channel>('low0'))), greatest(v128.load(at + offsetof<Channel>('high0'))));
}

function closeBucket(channel: Channel, low: f32, high: f32): void {
  store<f32>(channel.waveMin + (channel.waveCount << 2), low);
  store<f32>(channel.waveMax + (channel.waveCount << 2), high);
  channel.waveCount++;
}

/** core/peak/sample-statistics: where the sample peak stands first. */
function takePeak(channel: Channel, start: usize, offset: i32, magnitude: f32): void {
  channel.peak = magnitude;
  let i = 0;
  while (abs(load<f32>(start + (i << 2))) != magnitude) i++;
  channel.peakFrame = <f64>(channel.frame + offset + i);
}

/** Of four vectors, the greatest lane of each. */
@inline
function greatestOfEach(at: usize): v128 {
  const a = v128.load(at);
  const b = v128.load(at, 16);
  const c = v128.load(at, 32);
  const d = v128.load(at, 48);
  const ab = f32x4.pmax(
    i8x16.shuffle(a, b, 0, 1, 2, 3, 16, 17, 18, 19, 4, 5, 6, 7, 20, 21, 22, 23),
    i8x16.shuffle(a, b, 8, 9, 10, 11, 24, 25, 26, 27, 12, 13, 14, 15, 28, 29, 30, 31),
  );
  const cd = f32x4.pmax(
    i8x16.shuffle(c, d, 0, 1, 2, 3, 16, 17, 18, 19, 4, 5, 6, 7, 20, 21, 22, 23),
    i8x16.shuffle(c, d, 8, 9, 10, 11, 24, 25, 26, 27, 12, 13, 14, 15, 28, 29, 30, 31),
  );
  return f32x4.pmax(
    i8x16.shuffle(ab, cd, 0, 1, 2, 3, 4, 5, 6, 7, 16, 17, 18, 19, 20, 21, 22, 23),
    i8x16.shuffle(ab, cd, 8, 9, 10, 11, 12, 13, 14, 15, 24, 25, 26, 27, 28, 29, 30, 31),
  );
}
