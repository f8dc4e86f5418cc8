/** What of a file that was coded is its own: the frames between those that were coded ahead of it and behind it. */
export interface Extent {
  aheadFrames: number;
  frames: number;
  behindFrames: number;
  sampleRateHz: number;
}
