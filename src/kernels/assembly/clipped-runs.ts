import { Channel } from './channel';

const LEAST_RUN_FRAMES: i32 = 3;
export const FULL_SCALE: f32 = 0.999969482421875;
const LEAST_JUMP: f64 = 0.0001220703125;
const RUNS_KEPT: i32 = 1000;

/** core/peak/clipped-runs. Only blocks that reach full scale, or that a run goes into, are looked at. */
export function scanRuns(channel: Channel, start: usize, offset: i32, count: i32): void {
  for (let i = 0; i < count; i++) {
    const x = load<f32>(start + (i << 2));
    const frame = channel.frame + offset + i;
    if (channel.runLength > 0 && x == channel.runValue) {
      channel.runLength++;
      continue;
    }
    if (channel.runLength > 0) endRun(channel, frame, abs(<f64>channel.runValue - <f64>x));
    if (abs(x) >= FULL_SCALE) {
      const before = load<f32>(start + (i << 2) - 4);
      channel.runValue = x;
      channel.runLength = 1;
      // The first sample of a programme has no neighbour: a start at full scale is a jump.
      channel.entryJump = frame == 0 && !channel.primed ? Infinity : abs(<f64>x - <f64>before);
      channel.isHead = frame == 0 && channel.primed && x == before;
    }
  }
}

export function endRun(channel: Channel, endFrame: i64, exitJump: f64): void {
  if (channel.isHead) {
    channel.headFrames = channel.runLength;
    channel.headJump = exitJump;
    channel.isHead = false;
  } else if (channel.runLength >= LEAST_RUN_FRAMES && max(channel.entryJump, exitJump) > LEAST_JUMP) {
    if (channel.runTotal < RUNS_KEPT) {
      const to = channel.runs + (channel.runTotal << 4);
      store<f64>(to, <f64>(endFrame - channel.runLength));
      store<f64>(to, <f64>channel.runLength, 8);
    }
    channel.runTotal++;
  }
  channel.runLength = 0;
}

/** Ends the open run at the end of the segment, or hands it on where the sample behind the segment goes on with it. */
export function closeRun(channel: Channel, endFrame: i64, isFollowed: bool, following: f32): void {
  if (channel.runLength == 0) return;
  if (!isFollowed) {
    endRun(channel, endFrame, Infinity);
  } else if (following != channel.runValue) {
    endRun(channel, endFrame, abs(<f64>channel.runValue - <f64>following));
  } else {
    channel.tailFrames = channel.runLength;
    channel.tailJump = channel.entryJump;
    channel.tailIsHead = channel.isHead;
  }
}
