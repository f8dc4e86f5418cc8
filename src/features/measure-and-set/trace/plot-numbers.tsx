import { formatNumber } from '@/core/units/format';
import { AXIS_HEIGHT, PLOT_HEIGHT } from './plot-size';
import { BOTTOM_LUFS, type Height, heightMarks, heightOf, LOUDNESS_MARKS, loudnessDepth, TOP_LUFS } from './scales';
import { timeTicks, type View, xOf } from './view';

export function LoudnessNumbers() {
  return (
    <span aria-hidden className="relative font-mono text-[10px] text-mute" style={{ height: PLOT_HEIGHT }}>
      {LOUDNESS_MARKS.filter((lufs) => lufs < TOP_LUFS && lufs > BOTTOM_LUFS).map((lufs) => (
        <i
          key={lufs}
          className="absolute right-1.5 -translate-y-1/2 not-italic"
          style={{ top: loudnessDepth(lufs) * PLOT_HEIGHT }}
        >
          {formatNumber(lufs, 0)}
        </i>
      ))}
    </span>
  );
}

/** Of the first lane, from its edge to its middle. */
export function HeightNumbers({ height, lanes }: { height: Height; lanes: number }) {
  const half = PLOT_HEIGHT / lanes / 2;
  const marks = lanes > 1 ? heightMarks(height).slice(0, 1) : heightMarks(height);
  return (
    <span aria-hidden className="relative font-mono text-[10px] text-mute" style={{ height: PLOT_HEIGHT }}>
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

export function TimeNumbers({ view, sampleRateHz, width }: { view: View; sampleRateHz: number; width: number }) {
  return (
    <span aria-hidden className="relative font-mono text-[10px] text-mute" style={{ height: AXIS_HEIGHT }}>
      {timeTicks(view, sampleRateHz, width).map(({ frame, text }) => {
        const x = xOf(view, width, frame);
        const shift = x < 20 ? '' : x > width - 24 ? '-translate-x-full' : '-translate-x-1/2';
        return (
          <i key={frame} className={`absolute not-italic ${shift}`} style={{ left: x }}>
            {text}
          </i>
        );
      })}
    </span>
  );
}
