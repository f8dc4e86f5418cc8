import type { Distribution as Counts } from '@/core/loudness/readings';
import type { Spec } from '@/core/spec/spec';
import { formatNumber } from '@/core/units/format';
import { Popup } from '@/ui/popup';

const ROW_HEIGHT = 11;
const WIDTH = 190;
const LEFT = 46;

/** Opens how often each short-term loudness is heard, after the gain, beside what the spec aims at. */
export function Distribution({ counts, spec }: { counts: Counts | null; spec: Spec }) {
  if (!counts) return null;
  const total = counts.counts.reduce((sum, count) => sum + count, 0);
  const most = Math.max(...counts.counts);
  const rows = counts.counts.map((count, i) => ({ lufs: counts.fromLufs + i, count })).reverse();
  const target = spec.loudness?.measure === 'integrated' ? spec.loudness.target : undefined;
  return (
    <Popup name="distribution">
      <p className="font-bold">Short-term loudness, after the gain</p>
      <p className="pb-2 text-xs text-mute">share of the time in each 1 LU</p>
      <svg
        width={LEFT + WIDTH + 44}
        height={rows.length * ROW_HEIGHT + 4}
        role="img"
        aria-label={`Short-term loudness from ${formatNumber(counts.fromLufs)} to ${formatNumber(counts.fromLufs + rows.length)} LUFS`}
      >
        {rows.map(({ lufs, count }, i) => {
          const isTarget = target !== undefined && target >= lufs && target < lufs + 1;
          return (
            <g key={lufs} transform={`translate(0 ${i * ROW_HEIGHT})`}>
              {isTarget ? (
                <rect x={LEFT} width={WIDTH} height={ROW_HEIGHT} className="fill-stock-3" opacity="0.55" />
              ) : null}
              {i % 2 === 0 || isTarget ? (
                <text x={LEFT - 6} y={9} textAnchor="end" className="fill-mute font-mono text-[10px]">
                  {formatNumber(lufs)}
                </text>
              ) : null}
              <rect x={LEFT} y={1} width={(count / most) * WIDTH} height={ROW_HEIGHT - 2} className="fill-slide-ink" />
              {count > 0 ? (
                <text x={LEFT + WIDTH + 6} y={9} className="fill-mute font-mono text-[10px]">
                  {formatNumber((100 * count) / total)} %
                </text>
              ) : null}
            </g>
          );
        })}
      </svg>
    </Popup>
  );
}
