/** Texts of the steps' panels, by component. */

export const channelsMessages = {
  surroundUnchanged: (layout: string) => `${layout}, unchanged`,
  downmix: 'Downmix',
  downmixToStereo: 'Stereo',
  downmixToMono: 'Mono',
  downmixHint: 'By ITU-R BS.775: the centre and surrounds −3 dB, without LFE. Peaks add up: compare them below.',
  channels: 'Channels',
  unchanged: 'Unchanged',
  monoSum: 'Mono sum',
  swapped: 'Swapped',
  leftOnly: 'Left only',
  rightOnly: 'Right only',
  leftInverted: 'Left inverted',
  rightInverted: 'Right inverted',
  equalPowerHint: 'equal power: channels that share nothing keep their loudness',
  meanHint: 'the mean: never louder than the louder channel',
  plainSumHint: 'the plain sum: what both channels share comes out 6 dB louder',
  levelOfTheSum: 'Level of the sum',
};

export const downmixForecastMessages = {
  withThisTreatment: 'With this treatment',
  integrated: 'Integrated',
  truePeak: 'True peak',
  names: { stereo: 'Stereo downmix', mono: 'Mono downmix' },
  measuring: 'measuring…',
  failed: 'could not be measured',
  aboveCeiling: (ceiling: string) => `above the ceiling of ${ceiling}`,
};

export const dcMessages = {
  offsetOfRemoved: (offset: string) => `offset of ${offset} removed`,
  offsetIs: (offset: string) => `offset is ${offset}`,
};

export const ditherMessages = {
  dither: 'Dither',
  automatic: 'Automatic',
  none: 'None',
  rectangular: 'Rectangular',
  triangular: 'Triangular',
  shaped: 'Shaped',
  whatAutomaticDoes:
    'Automatic adds triangular dither to 16-bit files, and none to others. Dither comes last, and once.',
};

export const fadesMessages = {
  fades: 'Fades',
  in: 'In',
  out: 'Out',
  linear: 'Linear',
  equalPower: 'Equal power',
  exponential: 'Exponential',
  shapeOf: (fade: string) => `${fade} shape`,
};

export const gainMessages = {
  gain: 'Gain',
};

export const limiterMessages = {
  limiter: 'Limiter',
  reductionNotKnown: (at: string) => `${at}, reduction not known`,
  notLimiting: (at: string) => `${at}, not limiting`,
  upTo: (at: string, greatestDb: string) => `${at}, up to ${greatestDb} dB`,
  ceiling: 'Ceiling',
  link: 'Link',
  linkGroups: 'Linked channels',
  all: 'All',
  byPosition: 'By position',
  byPositionHint:
    'By position: front, surround and height channels are linked among themselves, and go down each by themselves',
  lookAhead: 'Look-ahead',
  release: 'Release',
  automatic: 'Automatic',
  fixed: 'Fixed',
  releaseTime: 'Release time',
  lowFrequencyChannel: 'Low-frequency channel',
  linked: 'Linked',
  separate: 'Separate',
  whatItDoes: (ceiling: string) =>
    `Look-ahead is for single peaks: longer is smoother, and costs more loudness. Sustained peaks are seen some 80 ms ahead, so that a bass note is not turned down cycle by cycle. True peak is held to ${ceiling}; what is heard is the gain reduction that will be written.`,
  noLimiter: 'none',
  atCeiling: (ceiling: string) => `at ${ceiling}`,
};

export const outputGainMessages = {
  outputGain: 'Output gain',
};

export const paddingMessages = {
  padding: 'Padding',
  atStart: (time: string) => `${time} at start`,
  atEnd: (time: string) => `${time} at end`,
  start: 'Start',
  silence: 'Silence',
  roomTone: 'Room tone',
  automaticTone: 'automatic: the quietest even half-second',
  halfASecondFrom: (time: string) => `half a second from ${time}`,
  useTheSpan: 'Use the span',
  automatic: 'Automatic',
  end: 'End',
  kindOf: (side: string) => `${side} is`,
};

export const rateMessages = {
  rate: 'Rate',
  sampleRate: 'Sample rate',
  whatItDoes: 'Resampling makes new peaks, so it comes before gain and limiter, and everything is measured after it.',
};

export const trimMessages = {
  drawASpan: 'Draw a span on the trace first',
  trim: 'Trim',
  noSound: 'No sound above −60 dBFS was found: nothing has changed.',
  notRead: 'The samples could not be read: nothing has changed.',
  start: 'Start',
  endAndLength: (end: string, frames: number) => `${end} · ${frames} frames`,
  toTheSpan: 'To the span',
  firstToLastSound: 'First to last sound',
  toZeroCrossings: 'To zero crossings',
  end: 'End',
};
