/** Texts of output formats and rows, by file. */

export const formatMessages = {
  monoSumNeedsTwo: (channels: number) =>
    `A mono sum is made of two channels, and there are ${channels}: set a downmix in the treatment.`,
  allChannelsInOneFile: 'all channels in one file',
  notSplit: (name: string) => `${name} files are not split: each channel would be encoded separately.`,
  oneOrTwoChannels: 'one or two channels',
  upToChannels: (most: number) => `up to ${most} channels`,
  tooManyChannels: (name: string, most: string, channels: number) =>
    `${name} holds ${most}, and there are ${channels}.`,
  flacHoldsEight: 'FLAC, which holds eight',
  wavHoldsAll: 'WAV, which holds all of them',
  layoutNotWritten: (name: string, layout: string) =>
    `${name} is not written in ${layout}: its encoder would move or mix the channels.`,
  flacKeepsEveryChannel: 'FLAC, which keeps every channel',
  losesAdm: (lost: string) => `The source has an audio definition (ADM), and ${lost}.`,
  withoutAdm: 'without its audio definition',
  rateNotWritten: (name: string, sampleRateHz: string) => `${name} is not written at ${sampleRateHz}.`,
  noFloats: (name: string) => `${name} has no floating-point samples.`,
  noDepth: (name: string) => `${name} has no bit depth.`,
  withoutADepth: 'without a depth',
  noBitRate: 'has no bit rate to choose',
  bitRateModes: (modes: string) => `is written at ${modes} rate`,
  atBitRateMode: (nearest: string) => `at ${nearest} rate`,
  asItIs: 'as it is',
  bitRateNotWritten: (name: string, mode: string, bitRateKbps: number, channelText: string, sampleRateHz: string) =>
    `${name} at ${mode} rate is not written with ${bitRateKbps} kbit/s in ${channelText} at ${sampleRateHz}.`,
  withBitRate: (nearest: number) => `with ${nearest} kbit/s`,
  noPlaceForAdm: (name: string) => `${name} has no place for it`,
  admIsOfOneFile: 'it describes all channels in one file',
  admChannelsMixed: 'the channels that it describes are mixed',
  admTimesMoved: 'the times that it states are moved by trim or padding',
  asItIsCoded: 'as it is coded',
  noDither: 'no dither',
  rectangularDither: 'rectangular dither',
  triangularDither: 'triangular dither',
  shapedDither: 'shaped dither',
  loudnessTags: 'loudness tags',
  tagsOnly: 'tags only',
};

export const factsMessages = {
  readOnceWritten: 'read from the file once it is written',
  chosenAtHandOver: 'chosen at Hand over',
};

export const rowMessages = {
  asSet: 'as set',
  gainOnly: 'gain only',
  gainAndLimiter: (maxReductionDb: number) => `gain and limiter, up to ${maxReductionDb} dB`,
};

export const templateMessages = {
  podcast: 'Podcast',
  broadcast: 'Broadcast',
  audiobook: 'Audiobook',
  record: 'Record',
};
