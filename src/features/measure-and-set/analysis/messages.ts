import type { AnalysisView } from './views';

/** Texts of the analysis, by component. */

export const analysisPanelMessages = {
  analysis: 'Analysis',
  views: {
    spectrum: { name: 'Spectrum', question: 'Thirds of an octave, and what the limiter takes of each.' },
    stereo: { name: 'Stereo', question: 'How wide each octave is, and what mono costs.' },
    peaks: { name: 'Peaks', question: 'True peak over short-term loudness (PSR), along time.' },
    thirds: { name: 'Thirds', question: 'The loudness of the beginning, the middle and the end.' },
    limiter: { name: 'Limiter', question: 'How often it takes how much, and what loudness that costs.' },
  } satisfies Record<AnalysisView, { name: string; question: string }>,
  close: 'Close the analysis',
  nothingOpen: 'Choose what to look at.',
};

export const viewFrameMessages = {
  reading: 'Reading …',
  failed: 'It could not be read. Reload the page to try again.',
  tooShort: 'Shorter than a third of a second: too short to tell.',
  ofTheSpan: 'of the span',
  spread: (count: number) => `at ${count} places`,
  before: 'before',
  after: 'after',
  goThere: 'Go there',
  setTheGain: 'Set the gain',
  setTheLimiter: 'Set the limiter',
  setTheChannels: 'Set the channels',
};

/** What takes some bands down more than others. */
export type Taker = 'limiter' | 'fades' | 'both';

const TAKERS: Readonly<Record<Taker, string>> = {
  limiter: 'The limiter takes',
  fades: 'The fades take',
  both: 'The limiter and the fades take',
};

export const spectrumViewMessages = {
  takesMost: (takers: Taker, hz: string, db: string) => `${TAKERS[takers]} most at ${hz}: ${db} dB.`,
  takesNothing: (takers: Taker) => `${TAKERS[takers]} no band down by 0.1 dB.`,
  unchanged: 'No gain is set: before and after are the same.',
  allAlike: (gain: string) => `The gain moves every band alike: ${gain}.`,
};

export const stereoViewMessages = {
  notStereo: 'It has one channel, or more than two: only stereo has a width.',
  silent: 'There is no sound in it.',
  monoLoss: (db: string, percent: string) => `Mono loses ${db} dB: ${percent} % of the power is in the difference.`,
  leastAt: (correlation: string, time: string) => `Least correlation ${correlation}, at ${time}.`,
  mono: 'Listen in mono',
  inverted: 'more in the difference than in the sum',
  left: 'L',
  right: 'R',
  correlation: 'correlation',
  widthOf: (hz: string, width: string) => `${hz}: ${width} % of its power is in the difference of the channels`,
};

export const peaksViewMessages = {
  least: (psr: string, time: string) => `Least ${psr} dB, in the 3 s up to ${time}.`,
  plr: (after: string, before: string) => `PLR ${after} dB, before ${before} dB.`,
  none: 'Shorter than 3 s, or silent: there is none.',
};

export const thirdsViewMessages = {
  names: ['beginning', 'middle', 'end'] as const,
  spread: (lu: string) => `The loudest third is ${lu} LU over the softest.`,
  silent: 'A third of it is silent.',
  choose: 'Click one to make it the span.',
  third: (name: string, from: string, to: string) => `${name}, ${from} to ${to}`,
};

export const limiterViewMessages = {
  off: 'No limiter is on.',
  turnOn: 'Set the limiter',
  share: (fromDb: string, percent: string) => `It takes ${fromDb} dB or more during ${percent} % of the time.`,
  nothing: 'It does not limit anything.',
  classes: 'Reduction, in dB, and the share of the time',
  from: (fromDb: string) => `${fromDb} or more`,
  between: (fromDb: string, toDb: string) => `${fromDb} to ${toDb}`,
  levels: 'Momentary loudness into the limiter, and by how much it comes out softer',
  cost: 'LU lost, by LUFS going in',
};
