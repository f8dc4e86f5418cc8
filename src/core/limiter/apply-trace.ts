import { dbToAmplitude } from '../units/decibel';

/** Natural logarithm of 10^(1/20): a decibel as an exponent. */
const PER_DB = Math.LN10 / 20;

/**
 * Turns planar frames up by a gain and down by a trace, in place.
 *
 * @param startFrame of the first of them, in the programme
 * @param trace reduction in dB at the beginning of every node of `nodeFrames` frames; after the last, it stays
 */
export function applyTrace(
  channels: readonly Float32Array[],
  frames: number,
  startFrame: number,
  { trace, nodeFrames, gainDb }: { trace: Float64Array; nodeFrames: number; gainDb: number },
): void {
  const gain = dbToAmplitude(gainDb);
  const last = trace.length - 1;
  for (let i = 0; i < frames; ) {
    const frame = startFrame + i;
    const node = Math.min(last, Math.floor(frame / nodeFrames));
    const from = trace[node] as number;
    const step = ((trace[Math.min(last, node + 1)] as number) - from) / nodeFrames;
    const end = node === last ? frames : Math.min(frames, (node + 1) * nodeFrames - startFrame);
    const within = frame - node * nodeFrames;
    if (from === 0 && step === 0) {
      for (const samples of channels) for (let n = i; n < end; n++) samples[n] = (samples[n] as number) * gain;
    } else {
      for (let n = i; n < end; n++) {
        const reductionDb = from + step * Math.min(nodeFrames, within + n - i);
        const factor = gain * Math.exp(-PER_DB * reductionDb);
        for (const samples of channels) samples[n] = (samples[n] as number) * factor;
      }
    }
    i = end;
  }
}
