import type { Readings } from '@/core/loudness/readings';
import { specLoudness } from '@/core/spec/requirements/loudness';
import { peakUnit, specPeak } from '@/core/spec/requirements/peak';
import type { Spec } from '@/core/spec/spec';
import { formatLevel, formatNumber } from '@/core/units/format';
import { stockMessages as messages } from './messages';
import { type RuleScale, toX } from './rule-geometry';
import { STOCK_HEIGHT, THIN_HEIGHT } from './rule-size';
import { Ticks } from './scale';

/** Nearly, of the letters that the rule is labelled with. */
const CHARACTER_WIDTH = 7;

/** The spec, on the part that stands still. */
export function Stock({ spec, scale, zeroDb }: { spec: Spec; scale: RuleScale; zeroDb: number }) {
  const { ceiling } = spec.peak;
  const ceilingX = toX(scale, ceiling);
  const { loudness } = spec;
  const nameWidth = spec.name.length * CHARACTER_WIDTH + 30;
  const ceilingText = formatLevel(ceiling, peakUnit(spec));
  const targetText = loudness ? windowText(loudness) : '';
  const measure = loudness?.measure === 'rms' ? 'RMS' : 'target';
  const said = [`${measure} ${targetText}`, messages.ceiling(ceilingText)].join(' ');
  // Numbers alone say enough where there is no room for words.
  const hasRoom = nameWidth + said.length * CHARACTER_WIDTH < ceilingX;
  return (
    <g>
      <rect width={scale.width} height={STOCK_HEIGHT} rx="8" className="fill-stock-1" />
      <rect
        x={ceilingX}
        width={Math.max(0, scale.width - ceilingX)}
        height={STOCK_HEIGHT}
        fill="url(#rule-hatch-stock)"
      />
      <text x="10" y="17" className="fill-stock-ink text-xs font-bold">
        {spec.name}
      </text>
      {loudness ? (
        <TargetWindow
          fromX={toX(scale, loudness.target - loudness.toleranceBelow)}
          toX={toX(scale, loudness.target + loudness.toleranceAbove)}
          text={hasRoom ? `${measure} ${targetText}` : targetText}
          nameWidth={nameWidth}
        />
      ) : null}
      {spec.maxShortTermLufs !== undefined ? (
        <g>
          <line
            x1={toX(scale, spec.maxShortTermLufs)}
            x2={toX(scale, spec.maxShortTermLufs)}
            y1="26"
            y2={STOCK_HEIGHT}
            strokeDasharray="3 3"
            className="stroke-stock-ink"
            strokeWidth="1.5"
          />
          <text x={toX(scale, spec.maxShortTermLufs) + 5} y="36" className="fill-stock-ink text-xs">
            {messages.shortTerm(formatNumber(spec.maxShortTermLufs))}
          </text>
        </g>
      ) : null}
      <line x1={ceilingX} x2={ceilingX} y1="0" y2={STOCK_HEIGHT} className="stroke-ink" strokeWidth="2" />
      <text x={ceilingX - 6} y="17" textAnchor="end" className="fill-ink text-xs font-semibold">
        {hasRoom ? messages.ceiling(ceilingText) : ceilingText}
      </text>
      <Ticks scale={scale} offsetDb={0} zeroDb={zeroDb} fromY={STOCK_HEIGHT} upward className="stroke-stock-ink" />
    </g>
  );
}

/** Another spec over the same slide: its window and its ceiling, and whether they are met. */
export function ThinStock({
  spec,
  treated,
  scale,
  top,
}: {
  spec: Spec;
  treated: Readings;
  scale: RuleScale;
  top: number;
}) {
  const { ceiling } = spec.peak;
  const ceilingX = toX(scale, ceiling);
  const { loudness } = spec;
  const height = THIN_HEIGHT - 3;
  const loudnessNow = loudness && specLoudness(treated, spec);
  const peak = specPeak(treated, spec);
  const isOver = peak !== null && peak > ceiling + spec.peak.allowanceDb + 0.001;
  const from = loudness ? toX(scale, loudness.target - loudness.toleranceBelow) : 0;
  const to = loudness ? toX(scale, loudness.target + loudness.toleranceAbove) : 0;
  const asked = loudness ? `${formatNumber(loudness.target)} · ` : '';
  return (
    <g transform={`translate(0 ${top})`}>
      <rect width={scale.width} height={height} rx="5" className="fill-stock-1" />
      <rect x={ceilingX} width={Math.max(0, scale.width - ceilingX)} height={height} fill="url(#rule-hatch-stock)" />
      {loudness ? <rect x={from} width={Math.max(2, to - from)} height={height} className="fill-stock-3" /> : null}
      <line x1={ceilingX} x2={ceilingX} y1="0" y2={height} className="stroke-ink" strokeWidth="1.5" />
      {loudnessNow != null ? (
        <path d={`M ${toX(scale, loudnessNow)} ${height} l 4 -7 h -8 z`} className="fill-slide-ink" />
      ) : null}
      {peak !== null ? (
        <rect
          x={toX(scale, peak) - 1.25}
          width="2.5"
          height={height}
          className={isOver ? 'fill-breach-line' : 'fill-slide-ink'}
        />
      ) : null}
      <text
        x="8"
        y="14"
        className="fill-stock-ink text-[11px] font-semibold"
        paintOrder="stroke"
        stroke="var(--color-stock-1)"
        strokeWidth="3"
      >
        {spec.name} {asked}
        {formatLevel(ceiling, peakUnit(spec))}
      </text>
    </g>
  );
}

/** Such as "−23.0 ±0.5". */
function windowText({ target, toleranceBelow, toleranceAbove }: NonNullable<Spec['loudness']>): string {
  const isEven = toleranceBelow === toleranceAbove;
  return isEven ? `${formatNumber(target)} ±${formatNumber(toleranceAbove)}` : formatNumber(target);
}

function TargetWindow({
  fromX,
  toX: untilX,
  text,
  nameWidth,
}: {
  fromX: number;
  toX: number;
  text: string;
  nameWidth: number;
}) {
  const middle = (fromX + untilX) / 2;
  const half = (text.length * CHARACTER_WIDTH) / 2;
  return (
    <g>
      <rect x={fromX} y="22" width={Math.max(2, untilX - fromX)} height={STOCK_HEIGHT - 22} className="fill-stock-3" />
      <text
        x={Math.max(middle, nameWidth + half)}
        y="17"
        textAnchor="middle"
        className="fill-stock-ink text-xs font-semibold"
      >
        {text}
      </text>
    </g>
  );
}
