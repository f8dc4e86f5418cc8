/** What the file itself told about its samples while it was read. */
export interface SourceFacts {
  sampleRateHz: number;
  frames: number;
  sampleFormat: 'integer' | 'float';
  /** Frames that the header promises and the file does not hold. */
  missingFrames: number;
  /** The header states no usable length, as after an interrupted recording; the file was read to its end. */
  sizeUnknown: boolean;
  nonFiniteSamples: number;
  codec: string;
  /** Null where the codec is lossy. */
  bitDepth: number | null;
  bitRateBps: number | null;
  track: { number: number; of: number; joined?: number[] } | null;
  /** Complaints of the decoder. */
  decodeErrors: number;
  /** Bits that its integer samples use, of those that they have; null where nobody could tell. */
  usedBits: number | null;
  /** What was done to it here before, in words: it is a delivery of our own. Null where it is none. */
  treatedBefore: string | null;
  /** Its audio definition has tracks that are more than channels for loudspeakers; absent where it has none, and in facts of older files. */
  hasObjects?: boolean;
}

/** Whether a programme is shorter than the gating block of BS.1770, so that it has no integrated loudness. */
export function isTooShort({ frames, sampleRateHz }: SourceFacts): boolean {
  return frames < 0.4 * sampleRateHz;
}
