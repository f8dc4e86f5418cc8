/** An audio definition (ADM, ITU-R BS.2076-2) as far as a rendering asks for it. Names and rules from memory. */

/** What the tracks of a pack or channel are. */
export const ADM_TYPES = ['DirectSpeakers', 'Matrix', 'Objects', 'HOA', 'Binaural'] as const;
export type AdmType = (typeof ADM_TYPES)[number];

export interface AdmProgramme {
  id: string;
  name: string;
  language: string | null;
  contentIds: readonly string[];
  /** What it asks for that is not rendered. */
  unsupported: readonly Unsupported[];
}

export interface AdmContent {
  id: string;
  name: string;
  objectIds: readonly string[];
  unsupported: readonly Unsupported[];
}

export interface AdmObject {
  id: string;
  name: string;
  /** Within the file; null is its beginning. */
  startSeconds: number | null;
  /** Null is to the end of the file. */
  durationSeconds: number | null;
  /** Linear; 0 of one that is muted. */
  gain: number;
  /** Objects within it. */
  objectIds: readonly string[];
  packIds: readonly string[];
  trackUids: readonly string[];
  /** Objects of which one is heard at a time, and it is this one unless another is chosen. */
  complementaryIds: readonly string[];
  unsupported: readonly Unsupported[];
}

export interface AdmPack {
  id: string;
  name: string;
  type: AdmType | null;
  channelIds: readonly string[];
  packIds: readonly string[];
}

export interface AdmChannel {
  id: string;
  name: string;
  type: AdmType | null;
  /** Below this it is heard; null where it says nothing of it. */
  lowPassHz: number | null;
  /** In the order that they are given in. */
  blocks: readonly AdmBlock[];
}

/** Times are stated in steps of 10 µs as a rule: blocks that are no further apart, or over each other, follow one another. */
export const ROUNDED_SECONDS = 2e-5;

/** A bound of a loudspeaker's place: the place itself where no other is stated. */
export interface Bounded {
  value: number;
  least: number;
  most: number;
}

/** What holds of a channel for some time. */
export interface AdmBlock {
  /** Within its object; null is the object's beginning. */
  startSeconds: number | null;
  /** Null is to the object's end. */
  durationSeconds: number | null;
  /** Linear. */
  gain: number;
  /** Degrees: to the left from the front, above the ears; and distance, 1 at the loudspeakers. */
  azimuth: Bounded;
  elevation: Bounded;
  distance: Bounded;
  /** Names of loudspeakers, as stated. */
  speakerLabels: readonly string[];
  /** How long it takes to come to these values, where it does not take the whole block; null where it does. */
  jumpSeconds: number | null;
  unsupported: readonly Unsupported[];
}

/** Which channel of the file a track is, and what it belongs to. */
export interface AdmTrack {
  uid: string;
  /** Of the file, counted from 0; null of one that is silence. */
  channel: number | null;
  /** Null where nothing says which, or what does is missing. */
  channelId: string | null;
  packId: string | null;
}

export interface AdmModel {
  programmes: readonly AdmProgramme[];
  contents: readonly AdmContent[];
  objects: readonly AdmObject[];
  packs: readonly AdmPack[];
  channels: readonly AdmChannel[];
  tracks: readonly AdmTrack[];
}

/** What is asked for that is not rendered; it is told, and nothing is guessed. */
export type Unsupported =
  | 'matrix'
  | 'hoa'
  | 'binaural'
  | 'unknown-type'
  | 'unknown-channel'
  | 'unknown-pack'
  | 'unknown-content'
  | 'unknown-object'
  | 'unknown-track'
  | 'missing-channel'
  | 'no-blocks'
  | 'blocks-overlap'
  | 'too-deep'
  | 'cartesian'
  | 'extent'
  | 'near'
  | 'diffuse'
  | 'divergence'
  | 'channel-lock'
  | 'zone-exclusion'
  | 'screen'
  | 'position-offset'
  | 'alternative-values'
  | 'damaged';

/** What has an ID is found by it: the first, where several have it. */
export function firstBy<T>(all: readonly T[], idOf: (one: T) => string): ReadonlyMap<string, T> {
  return new Map(all.toReversed().map((one) => [idOf(one), one]));
}
