import type { Picture } from '@/formats/metadata';
/** Texts of what several pages share, by component. */

export const addressNoticeMessages = {
  noSuchProgramme: (title: string) =>
    `The programme in this address is not in this job (or was removed); ${title} is shown. `,
  noSuchSpec: (specId: string, specName: string) =>
    `There is no spec “${specId}” (or it was deleted); ${specName} is used.`,
};

export const brandMessages = {
  opsimeter: 'Opsimeter',
};

export const miniRuleMessages = {
  loudnessNotMeasured: 'loudness not measured',
  noLoudnessTarget: 'no loudness target',
  ruleFor: (spec: string, levels: string) => `Rule for ${spec}: ${levels}`,
};

export const optionListMessages = {
  calculating: 'Calculating the options …',
  notCalculated: 'The options could not be calculated. Reload the page to try again; nothing has changed.',
  options: 'Options',
  outOfReach: (target: string) => `No limiter brings this mix to ${target}.`,
  gainOnly: 'Gain only',
  noLimiting: 'no limiting',
  gainOnlyEffect: 'The waveform keeps its shape.',
  limitByUpTo: (usualReductionDb: number) => `Limit by up to ${usualReductionDb} dB`,
  reachTheTarget: 'Reach the target',
  much: (muchReductionDb: number) => `more than ${muchReductionDb} dB`,
  whileLimiting: (meanDb: string, percentile95Db: string) =>
    `While limiting: ${meanDb} dB on average, and less than ${percentile95Db} dB for 95 % of that time.`,
  costOfMoreGain: (luPerDb: string) => `Another dB of gain adds ${luPerDb} LU.`,
  isMuch: (muchReductionDb: number) => `That is more than ${muchReductionDb} dB.`,
  probablyAudible: 'Probably audible.',
  shortOfTarget: (shortfallLu: string) => `${shortfallLu} LU short`,
};

export const specsMessages = {
  commonPractice: 'common practice',
};

export const stateMarkMessages = {
  notAssessed: 'not assessed',
  notMeasured: 'not measured',
};

export const taskStateMessages = {
  speedHint: '× is speed against real time',
  cancel: 'Cancel',
  tryAgain: 'Try again',
  waits: 'waits',
  timeLeft: (seconds: number) =>
    seconds < 90 ? `${Math.max(1, Math.round(seconds))} s left` : `${Math.round(seconds / 60)} min left`,
  cancelled: '◌ cancelled',
};

export const themeSwitchMessages = {
  changeTheme: (theme: string, next: string) => `Theme: ${theme}. Change to ${next}`,
  theme: (theme: string) => `Theme: ${theme}`,
};

export const topBarMessages = {
  lines: 'Lines',
  specs: 'Specs',
  receivers: 'Receivers',
  storage: 'Storage',
};

export const personMenuMessages = {
  person: (name: string, role: string) => `${name}, ${role}`,
  people: 'People',
  signOut: 'Sign out',
};

export const useTreatedMessages = {
  forecasting: 'forecast is being calculated',
};

export const sharedFormMessages = {
  elsewhere: (now: string) =>
    `Another window has set this to ${now === '' ? 'nothing' : `“${now}”`} meanwhile. Saving replaces it.`,
};

export const manyMessages = {
  limiting: 'Limiting',
  noLimiter: 'No limiter',
  upTo: (db: number) => `Limiting up to ${db} dB`,
  fitsEdges: 'Fit head and tail',
  fitsEdgesHint: 'Adds room tone where the head or tail is too short, and cuts where it is too long',
  deliver: (count: number) => (count === 1 ? 'Deliver' : `Deliver all ${count}`),
  deliverHint: 'Writes a file of each that meets the spec, and measures it again. What no gain mends is not written.',
  meet: 'Only set levels',
  meetHint: 'Sets gain, limiter and edges of each programme; nothing is written',
  applyTemplate: 'Apply a template',
  review: (count: number) => (count === 1 ? 'Review copy' : 'Review copies'),
  reviewHint:
    'Writes a small file of each that meets the target as far as the limiter may go, and says that it is no delivery',
  reviews: (count: number) => (count === 1 ? '1 review copy' : `${count} review copies`),
  download: 'Download (ZIP)',
  verified: (count: number) => `${count} written and verified`,
  set: (count: number) => `${count} set`,
  underWay: (count: number) => `${count} being written`,
  missed: (count: number) => `${count} not met`,
  onTheSheet: 'Files are on the Hand over page.',
  alike: 'How alike the files are',
  spreadNames: { loudness: 'loudness', noiseFloor: 'noise floor', head: 'head', tail: 'tail' },
  spread: (least: string, most: string, unit: string) => `${least} to ${most} ${unit}`,
  notMet: 'Not met',
};

export const pictureMessages = {
  is: ({ codec, widthPx, heightPx, framesPerSecond }: Picture) =>
    [codec, `${widthPx} × ${heightPx}`, framesPerSecond > 0 ? `${Number(framesPerSecond.toFixed(3))} fps` : '']
      .filter(Boolean)
      .join(', '),
};
