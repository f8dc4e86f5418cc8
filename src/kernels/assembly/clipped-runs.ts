import { Channel } from './channel';

const LEAST_RUN_FRAMES: i32 = 3;
export const FULL_SCALE: f32 = 0.999969482421875;
const LEAST_JUMP: f64 = 0.0001220703125;
const RUNS_KEPT: i32 = 1000;

/** core/peak/clipped-runs. Only blocks that reach full scale, or that a run goes into, are looked at. */
export function scanRuns(channel: Channel, at: usize, count: i32): void {
  for (let i = 0; i < count; i++) {
    const x = load<f32>(at + (i << 2));
    if (channel.runLength > 0 && x == channel.runValue) {
      channel.runLength++;
      continue;
    }
    if (channel.runLength > 0) endRun(channel, channel.frame + i, abs(<f64>channel.runValue - <f64>x));
    if (abs(x) >= FULL_SCALE) {
      channel.runValue = x;
      channel.runLength = 1;
      const isFirst = channel.frame + i == 0;
      channel.entryJump = isFirst ? Infinity : abs(<f64>x - <f64>load<f32>(at + (i << 2) - 4));
    }
  }
}

export function endRun(channel: Channel, endFrame: i64, exitJump: f64): void {
  if (channel.runLength >= LEAST_RUN_FRAMES && max(channel.entryJump, exitJump) > LEAST_JUMP) {
    if (channel.runTotal < RUNS_KEPT) {
      store<f64>(channel.runs + (channel.runCount << 4), <f64>(endFrame - channel.runLength));
      store<f64>(channel.runs + (channel.runCount << 4) + 8, <f64>channel.runLength);
      channel.runCount++;
    }
    channel.runTotal++;
  }
  channel.runLength = 0;
}
