import type { RuleScale } from './rule-geometry';
import { SLIDE_BOTTOM, SLIDE_TOP } from './rule-size';
import { Ticks } from './scale';

/** The part that moves, with nothing on it yet. */
export function BareSlide({ scale, gainDb = 0, zeroDb }: { scale: RuleScale; gainDb?: number; zeroDb: number }) {
  return (
    <>
      <rect y={SLIDE_TOP} width={scale.width} height={SLIDE_BOTTOM - SLIDE_TOP} rx="8" className="fill-slide-1" />
      <Ticks scale={scale} offsetDb={gainDb} zeroDb={zeroDb} fromY={SLIDE_TOP} className="stroke-slide-ink" />
    </>
  );
}
