/** Texts of the rule, by component. */

export const ruleMessages = {
  slideRuleOf: (title: string) => `Slide rule of ${title}`,
  gain: 'Gain',
};

export const slideMessages = {
  silence: 'silence: nothing to slide',
  peakOver: (peak: string, overDb: string) => `peak ${peak}, ${overDb} dB over`,
};
