type FindingCode =
  | 'silent'
  | 'too-short'
  | 'truncated'
  | 'size-unknown'
  | 'non-finite-samples'
  | 'clipped-runs'
  | 'normalised-to-full-scale'
  | 'beyond-full-scale'
  | 'lossy-source'
  | 'decode-errors'
  | 'several-tracks'
  | 'silent-channel'
  | 'same-channels'
  | 'inverted-polarity'
  | 'dc-offset'
  | 'silence-ahead'
  | 'silence-behind'
  | 'ends-sounding';

/** Something that a person should know about a file before working on it. */
export interface Finding {
  code: FindingCode;
  /** A breach spoils what is delivered; advice is worth knowing. */
  severity: 'breach' | 'advice';
  message: string;
}
