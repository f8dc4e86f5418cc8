import { BLOCK, FRAME_SHIFT, inLane, Lane, LANES, laneOf, Quad } from './quad';

const LEAST_RUN_FRAMES: i32 = 3;
export const FULL_SCALE: f32 = 0.999969482421875;
const LEAST_JUMP: f64 = 0.0001220703125;
const RUNS_KEPT: i32 = 1000;

/** core/peak/clipped-runs. Only blocks that reach full scale, or that a run goes into, are looked at. */
export function scanRuns(quad: Quad, block: i32, count: i32): void {
  const samples = quad.samples + ((block * BLOCK) << FRAME_SHIFT);
  const frame = quad.frame + block * BLOCK;
  quad.openRuns = 0;
  for (let i = 0; i < LANES; i++) {
    const lane = laneOf(quad, i);
    scanLane(lane, inLane(samples, i), frame, count);
    if (lane.runLength > 0) quad.openRuns++;
  }
}

function scanLane(lane: Lane, at: usize, firstFrame: i64, count: i32): void {
  for (let i = 0; i < count; i++, at += 16) {
    const x = load<f32>(at);
    if (lane.runLength > 0 && x == lane.runValue) {
      lane.runLength++;
      continue;
    }
    const frame = firstFrame + i;
    if (lane.runLength > 0) endRun(lane, frame, abs(<f64>lane.runValue - <f64>x));
    if (abs(x) >= FULL_SCALE) {
      const before = load<f32>(at - 16);
      lane.runValue = x;
      lane.runLength = 1;
      // The first sample of a programme has no neighbour: a start at full scale is a jump.
      lane.entryJump = frame == 0 && !lane.primed ? Infinity : abs(<f64>x - <f64>before);
      lane.isHead = frame == 0 && lane.primed && x == before;
    }
  }
}

function endRun(lane: Lane, endFrame: i64, exitJump: f64): void {
  if (lane.isHead) {
    lane.headFrames = lane.runLength;
    lane.headJump = exitJump;
    lane.isHead = false;
  } else if (lane.runLength >= LEAST_RUN_FRAMES && max(lane.entryJump, exitJump) > LEAST_JUMP) {
    if (lane.runTotal < RUNS_KEPT) {
      const to = lane.runs + (lane.runTotal << 4);
      store<f64>(to, <f64>(endFrame - lane.runLength));
      store<f64>(to, <f64>lane.runLength, 8);
    }
    lane.runTotal++;
  }
  lane.runLength = 0;
}

/** Ends the open runs at the end of the segments, or hands them on where the sample at `behind` goes on with them. */
export function closeRuns(quad: Quad, endFrame: i64, isFollowed: bool, behind: usize): void {
  for (let i = 0; i < LANES; i++) {
    const lane = laneOf(quad, i);
    const following = load<f32>(inLane(behind, i));
    if (lane.runLength == 0) continue;
    if (!isFollowed) {
      endRun(lane, endFrame, Infinity);
    } else if (following != lane.runValue) {
      endRun(lane, endFrame, abs(<f64>lane.runValue - <f64>following));
    } else {
      lane.tailFrames = lane.runLength;
      lane.tailJump = lane.entryJump;
      lane.tailIsHead = lane.isHead;
    }
  }
}
