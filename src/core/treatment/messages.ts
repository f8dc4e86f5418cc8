/** Texts of the treatment, by file. */
export const downmixMessages = {
  needsMoreThanTwo: '--downmix needs more than two channels, and to know what each is for: --layout says it',
};
