/** Texts of the transport and the live meters, by component. */

export const transportMessages = {
  nothingHeard: 'Nothing has been heard yet',
  pause: 'Pause',
  timeCode: (rate: string) => `Time code, ${rate}`,
  play: 'Play',
  loopTheSpan: 'Loop the span',
  loopHint: 'Loop the span (O)',
  loopNeedsASpan: 'Select a span on the trace to loop it',
  heard: 'Heard',
  equallyLoudHint: 'Turn the louder one down, so that both are equally loud (E)',
  equallyLoud: 'equally loud',
  monoHint: 'Listen in mono: the mean of all channels (X)',
  mono: 'mono',
  removedHint: 'Hear what is removed by the limiter (D)',
  removed: 'removed',
  notLoaded: 'The sound could not be loaded. Retrying automatically.',
  momentaryHint: 'Momentary (400 ms) and its maximum since reset, LUFS',
  shortTermHint: (maxShortTermLufs: string) => `Short-term (3 s), LUFS; maximum since reset ${maxShortTermLufs}`,
  integratedHint: (rangeLu: string) => `Integrated since reset, LUFS; loudness range so far ${rangeLu}`,
  truePeakHint: 'Highest true peak since reset, dBTP',
  peakAt: (level: string, time: string) => `${level} at ${time}`,
  reductionHint: 'Gain reduction, and its maximum since reset, dB',
  liveReadings: 'Live readings',
  resetMeters: 'Reset meters',
  reset: 'Reset',
};

export const useHeardChoicesMessages = {
  currentSettings: 'current settings',
  pass: (number: number, sent: string) => `pass ${number} (${sent})`,
};
