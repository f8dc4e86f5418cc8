/** Texts of line-ups, by file. */

export const lineUpMessages = {
  otherJob: 'a programme of a line-up is not in its job',
};

export const balanceMessages = {
  loudnessOfTheWhole: 'integrated loudness',
  nothingToMeasure: 'none of its programmes has a loudness',
};
