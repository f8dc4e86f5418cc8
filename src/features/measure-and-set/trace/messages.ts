/** Texts of the trace, by component. */

export const traceCardMessages = {
  trace: 'Trace',
  notFetched: 'The trace could not be fetched. The readings are complete; reload the page to try again.',
  drawing: 'Drawing …',
  tableCaption: 'Loudness along time, after the treatment, in LUFS',
  from: 'From',
  shortTermMax: 'Short-term max',
  momentaryMax: 'Momentary max',
  integratedSoFar: 'integrated so far',
  gainReduction: 'gain reduction',
  heightByDecibels: 'Height by decibels',
  heightHint: 'Height by amplitude or by decibels (Y)',
  decibels: 'dB',
  separateChannels: 'Separate channels',
  separateHint: 'Separate channels (I)',
  separate: 'separate',
  position: (time: string, overs: number) =>
    `Trace over ${time}, ${overs === 1 ? '1 over' : `${overs} overs`}: position`,
};

export const tracePlotMessages = {
  gainReductionHint: 'gain reduction, down to −9 dB',
  gainReduction: 'GR',
};
