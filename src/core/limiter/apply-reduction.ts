/** Natural logarithm of 10^(1/20): a decibel as an exponent. */
const PER_DB = Math.LN10 / 20;

/**
 * Turns planar frames up by a gain and down by a gain reduction curve, in place.
 *
 * @param startFrame of the first of them, counted from the first node of the curve
 * @param reductions in dB at the beginning of every node of `nodeFrames` frames; between two it is a straight line, and
 * the frames reach no further than the last
 */
export function applyReduction(
  channels: readonly Float32Array[],
  frames: number,
  startFrame: number,
  { reductions, nodeFrames, gain }: { reductions: Float32Array; nodeFrames: number; gain: number },
): void {
  for (let i = 0; i < frames; ) {
    const node = Math.floor((startFrame + i) / nodeFrames);
    const from = reductions[node] as number;
    const step = ((reductions[node + 1] as number) - from) / nodeFrames;
    const nodeStart = node * nodeFrames - startFrame;
    const end = Math.min(frames, nodeStart + nodeFrames);
    if (from === 0 && step === 0) {
      if (gain !== 1) scale(channels, i, end, gain);
    } else {
      // A straight line in dB is a constant ratio from frame to frame, counted from the node on whatever is asked for.
      const ratio = Math.exp(-PER_DB * step);
      let factor = gain * Math.exp(-PER_DB * from);
      for (let n = nodeStart; n < i; n++) factor *= ratio;
      ramp(channels, i, end, factor, ratio);
    }
    i = end;
  }
}

function scale(channels: readonly Float32Array[], from: number, to: number, gain: number): void {
  for (const samples of channels) for (let n = from; n < to; n++) samples[n] = (samples[n] as number) * gain;
}

function ramp(channels: readonly Float32Array[], from: number, to: number, start: number, ratio: number): void {
  for (const samples of channels) {
    let factor = start;
    for (let n = from; n < to; n++) {
      samples[n] = (samples[n] as number) * factor;
      factor *= ratio;
    }
  }
}
