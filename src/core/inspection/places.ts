import { quietestHalfSecond } from '../loudness/quietest-half-second';
import type { Series } from '../loudness/series';
import { BINS_PER_SECOND, gridFrame } from '../units/frames';

/** A programme is cut into so many equal stretches, and looked at where each is loudest. */
const STRETCHES = 20;
/** What is left out at both ends when a pause is sought: fades and run-ins are no pauses. */
const EDGE_BINS = 10;

/** First frames of blocks of so many frames, around the loudest 100 ms of each stretch of a programme. */
export function loudPlaces(
  { weightedPower }: Series,
  sampleRateHz: number,
  frames: number,
  blockFrames: number,
): number[] {
  if (frames < blockFrames) return [];
  const bins = weightedPower.length;
  const stretch = Math.max(1, Math.ceil(bins / STRETCHES));
  const places = new Set<number>();
  for (let from = 0; from < bins; from += stretch) {
    let loudest = from;
    for (let bin = from; bin < Math.min(bins, from + stretch); bin++) {
      if ((weightedPower[bin] ?? 0) > (weightedPower[loudest] ?? 0)) loudest = bin;
    }
    if (weightedPower[loudest] === 0) continue;
    places.add(Math.min(frames - blockFrames, gridFrame(loudest, BINS_PER_SECOND, sampleRateHz)));
  }
  return [...places];
}

/** First frame of the half-second with the least weighted power away from both ends, silence passed over. */
export function quietPlace({ weightedPower }: Series, sampleRateHz: number): number | undefined {
  const quietest = quietestHalfSecond(weightedPower, undefined, EDGE_BINS);
  return quietest ? gridFrame(quietest.startBin, BINS_PER_SECOND, sampleRateHz) : undefined;
}
