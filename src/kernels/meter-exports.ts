/** What the module exports; addresses and counts are plain numbers. */
export interface MeterExports {
  setInterpolator(screen: number, weights: number, l1Norm: number, curvatureNorm: number): void;
  setReading(taps: number): void;
  createQuad(at: number, rate: number, ...areas: number[]): void;
  createLane(quad: number, index: number, isPrimed: boolean, waveBlocks: number, ...arrays: number[]): void;
  setFilter(...coefficients: number[]): void;
  setExactFilter(...coefficients: number[]): void;
  weigh(quad: number, frames: number): void;
  weighExactly(quad: number, frames: number): void;
  prime(quad: number, frames: number): void;
  process(quad: number, blocks: number): void;
  finish(quad: number, rest: number, isFollowed: boolean): void;
  readCounts(quad: number, index: number, to: number): void;
  readTotals(quad: number, index: number, to: number): void;
  unpack(
    type: number,
    isBigEndian: boolean,
    from: number,
    stride: number,
    to: number,
    step: number,
    frames: number,
  ): number;
  unpackIntegers(
    from0: number,
    from1: number,
    from2: number,
    from3: number,
    stride: number,
    bytes: number,
    to: number,
    frames: number,
  ): void;
  unpackInt24Stereo(first: number, second: number, to: number, turns: number): void;
  unpackInt16Stereo(first: number, second: number, to: number, turns: number): void;
  unpackFloat32Stereo(first: number, second: number, to: number, turns: number): number;
}
