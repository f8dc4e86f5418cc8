import { formatLevel } from '@/core/units/format';
import type { StemsView } from '@/server/stems/null-test';
import { stemsMessages as messages } from '../messages';
import { LEFT, type Mix, type Test, testedFrames, timeScale, WIDTH } from './picture';

const CELL = 13;
/** From where what is left begins to be seen, to where a cell is full. */
const LEAST_DBFS = -100;
const MOST_DBFS = -20;

/** What is left of a mix without its stems, by octave and time: the fuller a cell, the more. */
export function ResidualGrid({ test, mix, stems }: { test: Test; mix: Mix; stems: StemsView['stems'] }) {
  const { bands, greatestResidualDb } = test.reading;
  const { centresHz, columnsDbfs, secondsPerColumn } = bands;
  const x = timeScale(testedFrames(mix, stems, test));
  const columnFrames = secondsPerColumn * mix.sampleRateHz;
  const height = centresHz.length * CELL;
  const end = x(testedFrames(mix, stems, test));
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${height + 4}`}
      className="block w-full"
      role="img"
      aria-label={messages.picture(
        greatestResidualDb === null ? messages.residualNone : formatLevel(greatestResidualDb, 'dBFS'),
      )}
    >
      {centresHz.map((hz, octave) => (
        <text
          key={hz}
          x={LEFT - 8}
          y={(centresHz.length - octave) * CELL - 2}
          textAnchor="end"
          className="fill-mute font-mono text-[11px]"
        >
          {hz >= 1000 ? `${hz / 1000} k` : Math.floor(hz)}
        </text>
      ))}
      {columnsDbfs.map((column, i) =>
        column.map((db, octave) => {
          const from = x(i * columnFrames);
          const share = Math.max(0, Math.min(1, (db - LEAST_DBFS) / (MOST_DBFS - LEAST_DBFS)));
          const width = Math.max(1, Math.min(end, x((i + 1) * columnFrames)) - from - 1.5);
          const full = CELL - 2;
          const filled = share === 0 ? 0 : Math.max(1, share * full);
          const top = (centresHz.length - 1 - octave) * CELL + 2;
          return (
            // biome-ignore lint/suspicious/noArrayIndexKey: a cell is what stands in its column and octave.
            <g key={`${i} ${octave}`}>
              <rect x={from} width={width} y={top} height={full} className="fill-stock-1" />
              <rect x={from} width={width} y={top + full - filled} height={filled} className="fill-breach-line" />
            </g>
          );
        }),
      )}
    </svg>
  );
}
