import type { Spec } from '@/core/spec/spec';
import { formatLevel, formatNumber } from '@/core/units/format';
import { Hatch } from '@/features/common/hatch';
import type { LineUpReadingView, TrackView } from '@/server/line-ups/line-up-reading';
import { classNames } from '@/ui/class-names';
import { terraceMessages as messages } from './messages';

const WIDTH = 1040;
const HEIGHT = 236;
const LEFT = 44;
const RIGHT = WIDTH - 8;
const TOP = 20;
const BOTTOM = HEIGHT - 36;
const GRID_DB = 6;
/** A title narrower than this would be cut to nothing. */
const LEAST_TITLE = 34;
const CHARACTER = 6.6;

/**
 * A line-up along time: a slab for each programme, as high as its loudness range, its loudness a bar across it, its short-term loudness
 * within; behind them the loudness of the whole, and the target.
 */
export function Terrace({
  reading,
  chosenId,
  onChoose,
}: {
  reading: LineUpReadingView;
  chosenId: string | null;
  onChoose: (programmeId: string) => void;
}) {
  const { tracks, whole, spec, lineUp } = reading;
  if (!whole) return null;
  const y = scaleOf(reading);
  const x = (seconds: number) => LEFT + (seconds / Math.max(1e-9, whole.durationSeconds)) * (RIGHT - LEFT);
  const words = tracks.map(({ title, integratedLufs }) => messages.track(title, formatLevel(integratedLufs, 'LUFS')));
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      className="block w-full"
      role="img"
      aria-label={messages.picture(lineUp.name, words.join(', '))}
    >
      <Hatch id="terrace-hatch" className="stroke-breach-line" />
      {gridOf(y).map((db) => (
        <g key={db}>
          <line x1={LEFT} x2={RIGHT} y1={y.of(db)} y2={y.of(db)} className="stroke-hair" />
          <text x={LEFT - 6} y={y.of(db) + 4} textAnchor="end" className="fill-mute font-mono text-[11px]">
            {formatNumber(db, 0)}
          </text>
        </g>
      ))}
      <Target spec={spec} y={y} />
      {whole.integratedLufs === null ? null : (
        <line
          x1={LEFT}
          x2={RIGHT}
          y1={y.of(whole.integratedLufs)}
          y2={y.of(whole.integratedLufs)}
          className="stroke-stock-ink"
          strokeDasharray="5 4"
        />
      )}
      {tracks.map((track, i) => (
        <Slab
          key={track.programmeId}
          track={track}
          number={i + 1}
          isChosen={track.programmeId === chosenId}
          onChoose={onChoose}
          x={x}
          y={y}
        />
      ))}
      {tracks.map(({ programmeId, gapSeconds, startSeconds, durationSeconds }) =>
        gapSeconds !== null && gapSeconds < 0 ? (
          <rect
            key={programmeId}
            x={x(startSeconds + durationSeconds + gapSeconds)}
            width={Math.max(1, x(-gapSeconds) - x(0))}
            y={TOP}
            height={BOTTOM - TOP}
            fill="url(#terrace-hatch)"
            opacity="0.8"
          />
        ) : null,
      )}
      <line
        x1={LEFT}
        x2={RIGHT}
        y1={y.of(spec.peak.ceiling)}
        y2={y.of(spec.peak.ceiling)}
        className="stroke-ink"
        strokeWidth="1.5"
      />
      <text x={LEFT + 4} y={y.of(spec.peak.ceiling) - 5} className="fill-ink text-[11px] font-semibold">
        {messages.ceiling(formatLevel(spec.peak.ceiling, spec.peak.measure === 'true' ? 'dBTP' : 'dBFS'))}
      </text>
    </svg>
  );
}

function Target({ spec, y }: { spec: Spec; y: Scale }) {
  if (spec.loudness?.measure !== 'integrated') return null;
  const { target, toleranceAbove, toleranceBelow } = spec.loudness;
  const [top, bottom] = [y.of(target + toleranceAbove), y.of(target - toleranceBelow)];
  return (
    <rect
      x={LEFT}
      width={RIGHT - LEFT}
      y={top}
      height={Math.max(2, bottom - top)}
      className="fill-stock-1 stroke-stock-3"
    />
  );
}

function Slab({
  track,
  number,
  isChosen,
  onChoose,
  x,
  y,
}: {
  track: TrackView;
  number: number;
  isChosen: boolean;
  onChoose: (programmeId: string) => void;
  x: (seconds: number) => number;
  y: Scale;
}) {
  const { programmeId, title, startSeconds, durationSeconds, integratedLufs, fromWholeLu, truePeakDbtp } = track;
  const [left, right] = [x(startSeconds), x(startSeconds + durationSeconds)];
  const low = track.loudnessRangeLowLufs ?? integratedLufs;
  const high = track.loudnessRangeHighLufs ?? integratedLufs;
  const width = Math.max(1, right - left);
  const isOver = track.peakState === 'over';
  const name = width < LEAST_TITLE ? String(number) : shortened(`${number} ${title}`, width / CHARACTER);
  return (
    // The table below chooses by keys as well.
    // biome-ignore lint/a11y/noStaticElementInteractions: a picture of what the table says.
    <g onClick={() => onChoose(programmeId)} className="cursor-pointer">
      {low === null || high === null || integratedLufs === null ? null : (
        <>
          <rect
            x={left}
            width={width}
            y={y.of(high)}
            height={Math.max(3, y.of(low) - y.of(high))}
            rx="3"
            className={classNames('fill-slide-1', isChosen ? 'stroke-slide-ink' : 'stroke-slide-2')}
            strokeWidth={isChosen ? 1.5 : 0.75}
          />
          <path d={curveOf(track, x, y)} fill="none" className="stroke-slide-2" />
          <line
            x1={left}
            x2={right}
            y1={y.of(integratedLufs)}
            y2={y.of(integratedLufs)}
            className="stroke-slide-ink"
            strokeWidth="3.5"
          />
          {fromWholeLu === null || width < LEAST_TITLE ? null : (
            <text
              x={(left + right) / 2}
              y={Math.min(BOTTOM - 2, y.of(low) + 13)}
              textAnchor="middle"
              className="fill-slide-ink font-mono text-[11px] font-bold"
            >
              {formatNumber(fromWholeLu, 1, { plus: true })}
            </text>
          )}
        </>
      )}
      {truePeakDbtp === null ? null : (
        <rect
          x={(left + right) / 2 - 2}
          width="4"
          y={y.of(truePeakDbtp)}
          height="8"
          className={isOver ? 'fill-breach-line' : 'fill-slide-ink'}
        />
      )}
      <text
        x={(left + right) / 2}
        y={HEIGHT - 14}
        textAnchor="middle"
        className={classNames('text-[12px]', isChosen ? 'fill-slide-ink font-bold' : 'fill-ink font-semibold')}
      >
        {name}
      </text>
    </g>
  );
}

interface Scale {
  low: number;
  high: number;
  of: (db: number) => number;
}

/** From above the ceiling and every peak to below the lowest range. */
function scaleOf({ tracks, spec }: LineUpReadingView): Scale {
  const peaks = tracks.flatMap(({ truePeakDbtp }) => truePeakDbtp ?? []);
  const lows = tracks.flatMap((track) => track.loudnessRangeLowLufs ?? track.integratedLufs ?? []);
  const high = Math.max(spec.peak.ceiling, ...peaks) + 0.5;
  const low = Math.max(-70, Math.min(spec.loudness?.target ?? -20, ...lows)) - 5;
  return { low, high, of: (db) => TOP + ((high - Math.max(low, Math.min(high, db))) / (high - low)) * (BOTTOM - TOP) };
}

function gridOf({ low, high }: Scale): number[] {
  const first = Math.ceil(low / GRID_DB) * GRID_DB;
  return Array.from({ length: Math.floor((high - first) / GRID_DB) + 1 }, (_, i) => first + i * GRID_DB);
}

function curveOf(
  { shortTermLufs, startSeconds, durationSeconds }: TrackView,
  x: (seconds: number) => number,
  y: Scale,
): string {
  let isDown = false;
  return shortTermLufs
    .flatMap((lufs, i) => {
      if (lufs === null) {
        isDown = false;
        return [];
      }
      const at = `${x(startSeconds + ((i + 0.5) / shortTermLufs.length) * durationSeconds).toFixed(1)} ${y.of(lufs).toFixed(1)}`;
      const command = isDown ? 'L' : 'M';
      isDown = true;
      return [`${command}${at}`];
    })
    .join('');
}

function shortened(text: string, characters: number): string {
  return text.length <= characters ? text : `${text.slice(0, Math.max(1, Math.floor(characters) - 1))}…`;
}
