/** Texts of what is asked of many programmes, by file. */

export const batchMessages = {
  otherJob: 'name at least one programme, and only programmes of this job',
};

export const performMessages = {
  set: 'set',
  unfit: (steps: string) => `stays as it was, because it does not fit: ${steps}`,
  sourceGone: 'the programme whose steps are copied was taken out of the job',
  met: 'set, and meets its spec',
  writing: 'being written',
  noMiss: 'no file of it misses',
  written: 'written before, and as it would be now',
  review: (loudness: string, peak: string) => `review copy, ${loudness}, ${peak}`,
  gone: 'it was taken out of the job',
};
