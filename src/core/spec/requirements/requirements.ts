import { duration } from './duration';
import { edges, roomTone } from './edges';
import { bitRate, file } from './file';
import { loudness } from './loudness';
import { loudnessRange } from './loudness-range';
import { noiseFloor } from './noise-floor';
import { peak } from './peak';
import { premaster } from './premaster';
import { bitDepth, channels, layouts, sampleRate } from './samples';
import { momentary, shortTerm } from './short-term-and-momentary';
import { tags } from './tags';

/** The fields that requirements have in a spec. */
export const REQUIREMENT_FIELDS = {
  ...loudness.fields,
  ...shortTerm.fields,
  ...momentary.fields,
  ...loudnessRange.fields,
  ...peak.fields,
  ...noiseFloor.fields,
  ...edges.fields,
  ...roomTone.fields,
  ...duration.fields,
  ...channels.fields,
  ...layouts.fields,
  ...sampleRate.fields,
  ...bitDepth.fields,
  ...file.fields,
  ...bitRate.fields,
  ...tags.fields,
  ...premaster.fields,
};

/** Everything that a spec can ask for, in the order in which it is judged and shown. */
export const REQUIREMENTS = [
  loudness,
  shortTerm,
  momentary,
  loudnessRange,
  peak,
  noiseFloor,
  edges,
  roomTone,
  duration,
  channels,
  layouts,
  sampleRate,
  bitDepth,
  file,
  bitRate,
  tags,
  premaster,
] as const;
