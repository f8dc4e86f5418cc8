const { abs, max, sqrt } = Math;

/** A click where a file begins or ends. */
export interface EdgeStep {
  edge: 'start' | 'end';
  /** From nothing straight to a height, or a single spike that stands out of what is around it. */
  kind: 'step' | 'spike';
  channel: number;
  /** Height, as a fraction of full scale. */
  height: number;
  /** From the edge. */
  frames: number;
}

/** A jump from silence that is heard as a click, 40 dB below full scale (common practice, no source). */
const LEAST_HEIGHT = 0.01;
/** A spike's second difference is so many times the RMS of all others in the block. */
const SPIKE_RATIO = 20;
/** Spikes are sought this near to the edge. */
const NEAR_SECONDS = 0.02;

/** How many frames of an edge are looked at. */
export function edgeFrames(sampleRateHz: number): number {
  return Math.round(0.06 * sampleRateHz);
}

/**
 * Looks for clicks at one edge of a file.
 *
 * @param channels the edge's frames, counted inwards: those of the end in reverse
 */
export function edgeSteps(channels: readonly Float32Array[], edge: EdgeStep['edge'], sampleRateHz: number): EdgeStep[] {
  return channels.flatMap((samples, channel): EdgeStep[] => {
    const first = abs(samples[0] ?? 0);
    if (first >= LEAST_HEIGHT) return [{ edge, kind: 'step', channel, height: first, frames: 0 }];
    const spike = spikeOf(samples, Math.round(NEAR_SECONDS * sampleRateHz));
    return spike ? [{ edge, kind: 'spike', channel, ...spike }] : [];
  });
}

function spikeOf(samples: Float32Array, nearFrames: number): { height: number; frames: number } | undefined {
  let at = 0;
  let greatest = 0;
  let sum = 0;
  const bend = (n: number) => (samples[n + 1] ?? 0) - 2 * (samples[n] ?? 0) + (samples[n - 1] ?? 0);
  for (let n = 1; n < samples.length - 1; n++) {
    const value = abs(bend(n));
    sum += value * value;
    if (n >= nearFrames || value <= greatest) continue;
    greatest = value;
    at = n;
  }
  // The spike itself bends its neighbours too.
  const own = [at - 2, at - 1, at, at + 1, at + 2].filter((n) => n >= 1 && n < samples.length - 1);
  const others = max(
    0,
    own.reduce((rest, n) => rest - bend(n) ** 2, sum),
  );
  const rms = sqrt(others / max(1, samples.length - 2 - own.length));
  const height = abs(samples[at] ?? 0);
  return height >= LEAST_HEIGHT && greatest > SPIKE_RATIO * rms ? { height, frames: at } : undefined;
}
