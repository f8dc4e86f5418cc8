/** Texts of the gauge. */

export const gaugeMessages = {
  momentary: 'momentary',
  shortTerm: 'short-term',
  range: 'range so far',
  limiter: (level: string) => `limiter ${level} dB`,
};
