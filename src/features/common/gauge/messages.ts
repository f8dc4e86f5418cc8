/** Texts of the gauge. */

export const gaugeMessages = {
  momentary: 'momentary',
  shortTerm: 'short-term',
  range: 'range so far',
  gaugeFor: (spec: string) => `Gauge for ${spec}`,
  limiter: (level: string) => `limiter ${level} dB`,
};
