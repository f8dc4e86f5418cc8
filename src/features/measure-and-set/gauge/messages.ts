/** Texts of the gauge, by component. */

export const gaugeMessages = {
  momentary: 'momentary',
  shortTerm: 'short-term',
  range: 'range so far',
  limiter: (level: string) => `limiter ${level} dB`,
};

export const metersPanelMessages = {
  readings: 'Live readings',
  momentary: 'momentary',
  momentaryHint: 'Loudness of the last 400 ms; beside it the highest since reset',
  shortTerm: 'short-term',
  shortTermHint: 'Loudness of the last 3 s; beside it the highest since reset',
  integrated: 'integrated',
  integratedHint: 'Loudness of all that was heard since reset, as a file of it would read',
  range: 'range so far',
  rangeHint: 'Loudness range of all that was heard since reset',
  truePeak: 'true peak',
  truePeakHint: 'Highest true peak since reset, and where it was heard',
  reduction: 'reduction',
  reductionHint: 'What the limiter takes now, and over the last 10 s; beside it the most since reset',
  measured: (time: string) => `${time} measured`,
  held: (time: string) => `${time}, paused`,
  hold: 'Pause',
  pauseMeters: 'Pause meters',
  continueMeters: 'Continue meters',
  goOn: 'Continue',
  holdHint: 'Pause the measuring, not the sound: integrated, range and maxima stand still',
  most: (level: string) => `max ${level}`,
  reset: 'Reset',
  resetMeters: 'Reset meters',
  say: 'Say',
  sayHint: (key: string) => `Say the live readings to a screen reader (${key})`,
  scale: 'Scale',
  scales: {
    absolute: { name: 'dB', hint: 'The scale of the rule' },
    'ebu-9': { name: '+9', hint: 'EBU scale from −18 to +9 LU, 0 LU at the target' },
    'ebu-18': { name: '+18', hint: 'EBU scale from −36 to +18 LU, 0 LU at the target' },
  },
  nothingHeard: 'Nothing was heard yet.',
  said: (readings: { momentary: string; shortTerm: string; integrated: string; range: string; peak: string }) =>
    `Momentary ${readings.momentary}, short-term ${readings.shortTerm}, integrated ${readings.integrated}, range ${readings.range}, true peak ${readings.peak}.`,
};
