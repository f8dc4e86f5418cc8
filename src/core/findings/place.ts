/** A stretch of a programme that a finding speaks of. */
export interface Place {
  startFrame: number;
  frames: number;
  /** Label of the channel; null where it is in all of them. */
  channel: string | null;
}

/** So many places of a finding are told. */
export const MOST_PLACES = 100;
