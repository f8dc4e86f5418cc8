import type { StepName } from '@/core/treatment/treatment';
import type { UnreadLine } from '@/formats/span-list';

/** Texts of the desk, by component. */

export const deskHeaderMessages = {
  click: (what: string) => `Click: ${what}`,
  notForecast: 'not forecast: reload to try again',
  verdict: 'Verdict',
  measuringTheTrimmedPart: 'measuring the trimmed part …',
  stopsTheGain: (binding: string, by: string) => `${binding} stops the gain ${by} LU short`,
};

export const gainPanelMessages = {
  nothingToGoBy: 'There is no level in it to go by, or the spec asks for none',
  gain: 'gain',
  dB: 'dB',
};

export const keysDialogMessages = {
  keys: 'Keys',
  keysHint: 'Keys (?)',
  howToChange:
    'Click a key to change it, on this machine. On the rule, ↑ and ↓ move by 0.1 dB, with Shift by 1 dB. On the trace they zoom; ← and → move, with Shift farther.',
  noKey: 'no key',
  pressAKey: 'press a key',
  resetAllKeys: 'Reset all keys',
  changeKeyOf: (command: string, key: string) => `${command}: ${key}. Change`,
};

export const layoutChoiceMessages = {
  measuringAgain: 'Measuring again …',
  channelsReadAs: 'Channels read as',
  channelLayout: 'Channel layout',
  asTheFileHasIt: (stated: string) => `${stated}, as the file has it`,
};

export const measureAndSetMessages = {
  notMeasured: 'It has not been measured, so nothing can be set yet. Its file is complete and unchanged.',
  beingMeasured: 'Its readings appear once the whole programme has been read. You can leave this page meanwhile.',
};

export const perChannelMessages = {
  eachChannelAfterTheGain: 'Each channel, after the gain',
  truePeakAt: 'true peak, at',
  samplePeakAt: 'sample peak, at',
  dcOfTheSource: 'DC of the source',
  clippedRuns: 'clipped runs',
};

export const placeListsMessages = {
  options: 'Options',
  overs: 'Overs',
  loudest: 'Loudest',
  markers: 'Markers',
  picture: 'Picture',
  optionsOversAndMarkers: 'Options, overs and markers',
  nothingOver: (ceiling: string) => `◆ Nothing over ${ceiling}.`,
  notMeasuredYet: '◌ Not measured yet.',
  noLoudest: '◌ Shorter than 3 s, or silent.',
  noMarkers: '◌ None yet. M adds a marker here, or for the span.',
  nameOf: (name: string) => `Name of ${name}`,
  deleteMarker: (name: string) => `Delete ${name}`,
};

export const placesMessages = {
  quietestHalfSecond: 'Quietest half-second',
};

export const programmeListMessages = {
  programmes: 'Programmes',
  measuring: (fraction: number) => `measuring ${fraction} %`,
  notMeasured: 'not measured',
};

export const readingsTableMessages = {
  integratedHint: 'Gated loudness of the whole programme (ITU-R BS.1770).',
  onTwoSpeakersHint: 'Integrated loudness when both of two loudspeakers play this mono programme.',
  truePeakHint: 'Highest point of the reconstructed signal, 16 times oversampled.',
  samplePeakHint: 'Highest sample.',
  shortTermMaxHint: 'Loudest 3 s, ungated.',
  momentaryMaxHint: 'Loudest 400 ms, ungated.',
  loudnessRangeHint: '10th to 95th percentile of short-term loudness (EBU Tech 3342).',
  plrHint: 'Peak-to-loudness ratio: true peak minus integrated loudness.',
  rmsHint: 'Whole programme, all channels, re full-scale peak: a full-scale sine reads −3.01.',
  noiseFloorHint: 'RMS of the quietest half-second that holds no digital silence, unweighted, re full-scale peak.',
  readings: 'Readings',
  sourceTreated: 'source → treated ·',
  reading: 'Reading',
  source: 'Source',
  afterTreatment: 'After treatment',
  unit: 'Unit',
  verdict: 'Verdict',
  rangeEnds: (low: string, high: string) => `, from ${low} to ${high} LUFS`,
  nothingToMeasure: 'nothing to measure: silence, or too short',
};

export const spanBarMessages = {
  span: 'Span',
  spanStart: 'Span start',
  spanEnd: 'Span end',
  readingsOfTheSpan: 'Readings of the span',
  spanReadings: (maxShortTermLufs: string, maxMomentaryLufs: string, peak: string) =>
    `LUFS · S ${maxShortTermLufs} · M ${maxMomentaryLufs} · ${peak} dBTP`,
  play: 'Play',
  hearThroughCodec: 'Hear through codec',
  trimToSpan: 'Trim to span',
  marker: 'Marker',
  deliverThisSpan: 'Deliver this span',
  clear: 'Clear',
  chooseACodec: 'codec …',
};

export const stackedSpecsMessages = {
  noMore: 'No more fit above the rule: take one away first',
  compareWithMoreSpecs: 'compare with more specs',
  /** Where there is little room. */
  compare: 'compare',
  comparedWith: (specs: number) => `compared with ${specs}`,
  compareHeading: 'Compare with more specs',
  compareHint: 'Compare with up to three more specs',
};

export const startsMessages = {
  premaster: 'Premaster',
  premasterHint: 'Leaves 6 dB free: no limiter, no dither, nothing resampled',
  master: 'Master',
  masterHint: (name: string) => `Master for ${name}: on the target, with a limiter where gain alone does not reach it`,
};

export const useOptionsMessages = {
  meetTheTarget: 'Meet the target',
  peakAtTheCeiling: 'Peak at the ceiling',
  headroom: '6 dB of headroom',
  noGain: 'No gain',
};

export const useSourceTimesMessages = {
  ofTheFile: 'of the file',
};

const REMEDY_STEPS: Readonly<Partial<Record<StepName, string>>> = {
  trim: 'trim or pad the edges',
  paddingStart: 'set the padding',
  mix: 'set the channels',
  resampleHz: 'set the rate',
  removeDc: 'remove DC',
};

export const remediesMessages = {
  turnDown: (db: string) => `turn down ${db} dB`,
  turnUp: (db: string) => `turn up ${db} dB`,
  chooseAnOption: 'choose an option',
  setTheLimiter: 'set the limiter',
  listenToIt: 'go to the first one',
  setIt: 'set it',
  steps: REMEDY_STEPS,
};

export const listImportMessages = {
  list: 'Edit list or table of spans',
  fromAList: 'From a list',
  hint: 'Markers from an edit list (CMX 3600) or a table (CSV: start, end, name)',
  came: (added: number, known: number) =>
    [added === 1 ? '1 marker added' : `${added} markers added`, known > 0 ? `${known} there already` : '']
      .filter(Boolean)
      .join(', '),
  leftOut: (line: number, why: UnreadLine['why']) => `line ${line}: ${WHY_LEFT_OUT[why]}`,
  more: (lines: number) => (lines === 1 ? '1 more line was left out' : `${lines} more lines were left out`),
  tooLarge: 'The file is larger than any list of spans.',
};

const WHY_LEFT_OUT: Readonly<Record<UnreadLine['why'], string>> = {
  'no-times': 'no start and end',
  empty: 'its end is not behind its start',
  outside: 'outside the programme',
  'no-time-code': 'in time code, and the file has none',
};
