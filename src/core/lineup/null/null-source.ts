/** One file of a null test, read a stretch at a time. */
export interface NullSource {
  /** What people call it. */
  name: string;
  frames: number;
  /**
   * Planar samples from a frame on, as many channels as every other source of the test has. What lies ahead of the first frame or
   * behind the last is 0.
   */
  read(startFrame: number, frames: number): Promise<Float32Array[]>;
}

/** Frames that are read at once: 100 ms, the grid that places are found on. */
export function binFramesOf(sampleRateHz: number): number {
  return Math.round(sampleRateHz / 10);
}

/** A stretch of the test, in frames of the mix. */
export interface Place {
  startFrame: number;
  /** First frame behind it. */
  endFrame: number;
}

/** The 100 ms that a place is made of. */
export function binsOf({ startFrame, endFrame }: Place, binFrames: number): number[] {
  const first = Math.floor(startFrame / binFrames);
  return Array.from({ length: Math.ceil(endFrame / binFrames) - first }, (_, i) => first + i);
}

/** The mix, last of a block, less everything else. */
export function residualOf(block: readonly (readonly Float32Array[])[]): Float32Array[] {
  const stems = block.slice(0, -1);
  return (block.at(-1) as readonly Float32Array[]).map((samples, c) =>
    samples.map((x, n) => stems.reduce((left, stem) => left - (stem[c]?.[n] as number), x)),
  );
}
