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
  | 'works-against'
  | 'out-of-balance'
  | 'dc-offset'
  | 'silence-ahead'
  | 'silence-behind'
  | 'ends-sounding'
  | 'click-at-edge'
  | 'noise-floor'
  | 'band-edge'
  | 'upsampled'
  | 'unused-bits'
  | 'treated-before'
  | 'other-rate';

/** A stretch of a programme that a finding speaks of. */
export interface Place {
  startFrame: number;
  frames: number;
  /** Label of the channel; null where it is in all of them. */
  channel: string | null;
}

/** Something that a person should know about a file before working on it. */
export interface Finding {
  code: FindingCode;
  /** A breach spoils what is delivered; advice is worth knowing. */
  severity: 'breach' | 'advice';
  /** What is there, by how much, and what to do. */
  message: string;
  /** Where; empty where it is in the whole file. The first hundred. */
  places: Place[];
}

const MOST_PLACES = 100;

export function breach(code: FindingCode, message: string, places: Place[] = []): Finding {
  return { code, severity: 'breach', message, places: places.slice(0, MOST_PLACES) };
}

export function advice(code: FindingCode, message: string, places: Place[] = []): Finding {
  return { code, severity: 'advice', message, places: places.slice(0, MOST_PLACES) };
}
