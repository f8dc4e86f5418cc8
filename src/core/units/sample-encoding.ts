/** How a sample is written as bytes: unsigned or signed integers with full scale at 1.0, or floats. */
export const SAMPLE_TYPES = ['u8', 's8', 's16', 's24', 's32', 'f32', 'f64'] as const;
export type SampleType = (typeof SAMPLE_TYPES)[number];

export interface SampleEncoding {
  type: SampleType;
  isBigEndian: boolean;
}

export function sampleBytes({ type }: SampleEncoding): number {
  return Number(type.slice(1)) / 8;
}
