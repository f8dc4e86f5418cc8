/** Texts of the charts, by component. */

export const chartsMessages = {
  howItWillPlay: 'How it will play',
  loudnessDistribution: 'Loudness distribution',
  shortTermHistory: 'Short-term history',
  programmesSideBySide: 'Programmes side by side',
  chartsOf: (title: string) => `Charts of ${title}`,
  afterTheTreatmentFor: (specs: string) => `after the treatment, for ${specs}`,
  charts: 'Charts',
  asATable: 'As a table',
  saveAsPng: 'Save as PNG',
  saveAsSvg: 'Save as SVG',
  saveAsCsv: 'Save as CSV',
};

export const distributionChartMessages = {
  beforeOfTime: 'before, % of time',
  afterOfTime: 'after, % of time',
  nothingToShow: '◌ Shorter than 3 s, or silent.',
  shortTermLoudness: 'short-term loudness, LUFS',
  range: (rangeLu: string) => `range ${rangeLu} LU`,
  gateOfIntegrated: 'gate of integrated',
  gateOfRange: 'gate of range',
};

export const historyChartMessages = {
  timeOfTheSource: 'time of the source',
};

export const playbackTableMessages = {
  normalisedToCsv: 'normalised to LUFS',
  turnedByCsv: 'turned by dB',
  truePeakThenCsv: 'true peak then dBTP',
  overTheCeilingCsv: 'over the ceiling dB',
  noLoudness: '◌ There is no loudness to normalise.',
  caption: 'How this version plays where loudness is normalised',
  where: 'Where',
  normalisedTo: 'normalised to',
  itIsTurned: 'it is turned',
  truePeakThen: 'true peak then',
  result: 'result',
  overTheCeiling: (excessDb: string, ceiling: string) =>
    `${excessDb} dB over ${ceiling}: it is limited there, or not turned up as far`,
  playsAsItIs: 'plays as it is',
  unchanged: 'unchanged',
  downBy: (db: string) => `down by ${db} dB`,
  upBy: (db: string) => `up by ${db} dB`,
};

export const programmesChartMessages = {
  peakDB: 'peak dB',
};
