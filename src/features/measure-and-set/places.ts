import type { Finding } from '@/core/findings/finding';
import { kindOf } from '@/core/findings/findings';
import { HALF_SECOND_BINS, quietestHalfSecond } from '@/core/loudness/quietest-half-second';
import type { Passage } from '@/core/loudness/readings';
import type { Over } from '@/core/peak/overs';
import { type Timeline, toSourceFrame } from '@/core/treatment/timeline';
import { formatNumber } from '@/core/units/format';
import { BINS_PER_SECOND, gridFrame } from '@/core/units/frames';
import { placesMessages as messages } from './messages';

/** Something in the programme that is shown on the trace, in frames of the source. */
export interface Place {
  key: string;
  /** Where it stands, or begins. */
  frame: number;
  /** How long it is; 0 for a peak. */
  frames: number;
}

export function placeOfOver(over: Over, timeline: Timeline): Place {
  return { key: `over ${over.startBin}`, frame: Math.round(toSourceFrame(timeline, over.frame)), frames: 0 };
}

export function placeOfPassage({ startFrame }: Passage, seconds: number, timeline: Timeline, rateHz: number): Place {
  const frame = Math.round(toSourceFrame(timeline, startFrame));
  return { key: `passage ${startFrame} ${seconds}`, frame, frames: seconds * rateHz };
}

export interface NamedPlace extends Place {
  name: string;
  detail: string;
}

/** What is found in a source: clipped runs, silence at the ends. */
export function foundPlaces(findings: readonly Finding[], rateHz: number): NamedPlace[] {
  return findings.flatMap(({ code, places }) => {
    const name = kindOf({ code })?.placeName;
    if (!name) return [];
    return places.map(({ startFrame, frames, channel }) => ({
      key: `${code} ${startFrame} ${channel}`,
      frame: startFrame,
      frames,
      name,
      detail: channel ?? `${formatNumber(frames / rateHz, 2)} s`,
    }));
  });
}

/** The quietest half second of a programme that is no digital silence, by its weighted power; null where there is none. */
export function quietestPlace(power: ArrayLike<number>, rateHz: number): NamedPlace | null {
  const quietest = quietestHalfSecond(power);
  if (!quietest) return null;
  const frame = gridFrame(quietest.startBin, BINS_PER_SECOND, rateHz);
  return {
    key: 'quietest',
    frame,
    frames: gridFrame(HALF_SECOND_BINS, BINS_PER_SECOND, rateHz),
    name: messages.quietestHalfSecond,
    detail: '',
  };
}

/** The next place from a frame on, or the one before it; round again behind the last. */
export function nextPlace<P extends Place>(places: readonly P[], frame: number, direction: 1 | -1): P | undefined {
  if (direction === 1) return places.find((place) => place.frame > frame) ?? places[0];
  return places.findLast((place) => place.frame < frame) ?? places.at(-1);
}
