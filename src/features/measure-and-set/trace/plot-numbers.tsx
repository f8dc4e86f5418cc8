import { formatNumber } from '@/core/units/format';
import type { StartTimeCode } from '@/core/units/time-code';
import { AXIS_HEIGHT } from './plot-size';
import { type Height, heightMarks, heightOf, LOUDNESS_MARKS, loudnessDepth } from './scales';
import { timeCodeTicks, timeTicks, type View, xOf } from './view';

/** In a lower plot every second number is left out. */
const LEAST_FOR_ALL = 110;

export function LoudnessNumbers({ plotHeight }: { plotHeight: number }) {
  return (
    <span aria-hidden className="relative font-mono text-[10px] text-mute" style={{ height: plotHeight }}>
      {LOUDNESS_MARKS.filter((lufs) => plotHeight >= LEAST_FOR_ALL || lufs % 12 === 0).map((lufs) => (
        <i
          key={lufs}
          className="absolute right-1.5 -translate-y-1/2 not-italic"
          style={{ top: loudnessDepth(lufs) * plotHeight }}
        >
          {formatNumber(lufs, 0)}
        </i>
      ))}
    </span>
  );
}

/** Of the first lane, from its edge to its middle. */
export function HeightNumbers({ plotHeight, height, lanes }: { plotHeight: number; height: Height; lanes: number }) {
  const half = plotHeight / lanes / 2;
  const marks = lanes > 1 ? heightMarks(height).slice(0, 1) : heightMarks(height);
  return (
    <span aria-hidden className="relative font-mono text-[10px] text-mute" style={{ height: plotHeight }}>
      {marks.map((db) => (
        <i
          key={db}
          className="absolute left-1.5 -translate-y-1/2 not-italic"
          style={{ top: half * (1 - heightOf(10 ** (db / 20), height)) }}
        >
          {formatNumber(db, 0)}
        </i>
      ))}
    </span>
  );
}

export function TimeNumbers({
  view,
  sampleRateHz,
  width,
  timeCode,
}: {
  view: View;
  sampleRateHz: number;
  width: number;
  /** Null where there is none: times from the start are told. */
  timeCode: StartTimeCode | null;
}) {
  const ticks = timeCode ? timeCodeTicks(view, sampleRateHz, width, timeCode) : timeTicks(view, sampleRateHz, width);
  return (
    <span aria-hidden className="relative font-mono text-[10px] text-mute" style={{ height: AXIS_HEIGHT }}>
      {ticks.map(({ frame, text }) => {
        const x = xOf(view, width, frame);
        const half = 3 * text.length;
        const shift = x < half ? '' : x > width - half ? '-translate-x-full' : '-translate-x-1/2';
        return (
          <i key={frame} className={`absolute not-italic ${shift}`} style={{ left: x }}>
            {text}
          </i>
        );
      })}
    </span>
  );
}
