import { formatNumber } from '@/core/units/format';
import { type RuleScale, toX } from './rule-geometry';
import { HEIGHT } from './rule-size';

/** A mark at every decibel. */
export function Ticks({
  scale,
  offsetDb,
  fromY,
  upward = false,
  zeroDb = 0,
  className,
}: {
  scale: RuleScale;
  offsetDb: number;
  fromY: number;
  upward?: boolean;
  /** What is called 0. */
  zeroDb?: number;
  className: string;
}) {
  const direction = upward ? -1 : 1;
  const zero = zeroDb + offsetDb;
  const first = Math.ceil(scale.lowDb - zero);
  const last = Math.floor(scale.highDb - zero);
  const ticks = Array.from({ length: last - first + 1 }, (_, i) => first + i);
  return (
    <g className={className}>
      {ticks.map((db) => (
        <line
          key={db}
          x1={toX(scale, db + zero)}
          x2={toX(scale, db + zero)}
          y1={fromY}
          y2={fromY + direction * (db % 6 === 0 ? 12 : 6)}
          strokeWidth={db % 6 === 0 ? 1.5 : 1}
          opacity={db % 6 === 0 ? 1 : 0.7}
        />
      ))}
    </g>
  );
}

/** A scale of no more has twice as many numbers. */
const NARROW_DB = 30;

/** @param zeroDb what is called 0: on an EBU scale, the target */
export function ScaleNumbers({ scale, zeroDb }: { scale: RuleScale; zeroDb: number }) {
  const step = scale.highDb - scale.lowDb <= NARROW_DB ? 3 : 6;
  const first = zeroDb + Math.ceil((scale.lowDb - zeroDb) / step) * step;
  const numbers = Array.from({ length: Math.floor((scale.highDb - first) / step) + 1 }, (_, i) => first + i * step);
  return (
    <g className="pointer-events-none">
      {numbers.map((db) => (
        <text
          key={db}
          x={toX(scale, db)}
          y={HEIGHT - 4}
          textAnchor={db === scale.lowDb ? 'start' : db === scale.highDb ? 'end' : 'middle'}
          className="fill-mute font-mono text-[11px]"
        >
          {formatNumber(db - zeroDb, 0, { plus: zeroDb !== 0 })}
        </text>
      ))}
    </g>
  );
}
