/** Texts of stems that are compared with their mix. */

export const stemMessages = {
  channels: (count: number) => (count === 1 ? 'mono' : count === 2 ? 'stereo' : `${count} channels`),
  depth: (bits: number | null) => (bits === null ? 'lossy' : `${bits} bit`),
  differs: (own: string, its: string) => `${own}, and the mix ${its}`,
  length: (length: string, frames: number) =>
    `${length}: ${Math.abs(frames)} ${Math.abs(frames) === 1 ? 'frame' : 'frames'} ${frames > 0 ? 'longer' : 'shorter'} than the mix`,
  lossy: 'Stems in a lossy format do not add up to their master',
  lossless: 'as WAV',
};
