import { formatNumber } from '@/core/units/format';
import { type RuleScale, toX } from './rule-geometry';
import { HEIGHT } from './rule-size';

/** A mark at every decibel. */
export function Ticks({
  scale,
  offsetDb,
  fromY,
  upward = false,
  className,
}: {
  scale: RuleScale;
  offsetDb: number;
  fromY: number;
  upward?: boolean;
  className: string;
}) {
  const direction = upward ? -1 : 1;
  const first = Math.ceil(scale.lowDb - offsetDb);
  const last = Math.floor(scale.highDb - offsetDb);
  const ticks = Array.from({ length: last - first + 1 }, (_, i) => first + i);
  return (
    <g className={className}>
      {ticks.map((db) => (
        <line
          key={db}
          x1={toX(scale, db + offsetDb)}
          x2={toX(scale, db + offsetDb)}
          y1={fromY}
          y2={fromY + direction * (db % 6 === 0 ? 12 : 6)}
          strokeWidth={db % 6 === 0 ? 1.5 : 1}
          opacity={db % 6 === 0 ? 0.9 : 0.4}
        />
      ))}
    </g>
  );
}

export function ScaleNumbers({ scale }: { scale: RuleScale }) {
  const first = Math.ceil(scale.lowDb / 6) * 6;
  const numbers = Array.from({ length: Math.floor((scale.highDb - first) / 6) + 1 }, (_, i) => first + i * 6);
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
          {formatNumber(db, 0)}
        </text>
      ))}
    </g>
  );
}
