'use client';

import { type KeyboardEvent, type PointerEvent, useState } from 'react';
import type { Readings } from '@/core/loudness/readings';
import { specLoudness } from '@/core/spec/requirements/loudness';
import { peakUnit, specPeak } from '@/core/spec/requirements/peak';
import type { Spec } from '@/core/spec/spec';
import { GAIN_LIMIT_DB, roundGain } from '@/core/treatment/steps/gain';
import { formatGain, formatLevel, formatNumber } from '@/core/units/format';
import { Hatch } from '@/features/common/hatch';
import { classNames } from '@/ui/class-names';
import { dbPerPixel, LABEL_LANES, placeLabels, type RuleLabel, type RuleScale, ruleScale, toX } from './rule-geometry';
import { useWidth } from './use-width';

const STOCK_HEIGHT = 44;
/** Of a spec that is stacked above the first. */
const THIN_HEIGHT = 22;
const SLIDE_TOP = STOCK_HEIGHT + 2;
const MARKS_Y = SLIDE_TOP + 20;
const LABELS_Y = MARKS_Y + 18;
const LANE_HEIGHT = 13;
const SLIDE_BOTTOM = LABELS_Y + (LABEL_LANES - 1) * LANE_HEIGHT + 6;
const HEIGHT = SLIDE_BOTTOM + 14;
const STEP_DB = 0.1;
const LARGE_STEP_DB = 1;

/**
 * The slide rule: the spec on the fixed stock above, the programme on the slide below. Sliding is gain.
 * Change comes with every movement, commit when the hand lets go.
 */
export function Rule(props: {
  spec: Spec;
  /** Stocks above the first, to be met as well. */
  others: readonly Spec[];
  source: Readings;
  treated: Readings;
  gainDb: number;
  onChange: (gainDb: number) => void;
  onCommit: (gainDb: number) => void;
}) {
  const [frame, width] = useWidth<HTMLDivElement>();
  return (
    <div ref={frame} style={{ height: HEIGHT + props.others.length * THIN_HEIGHT }} className="w-full">
      {width > 0 ? <RuleDrawing {...props} width={width} /> : null}
    </div>
  );
}

function RuleDrawing({
  spec,
  others,
  source,
  treated,
  gainDb,
  onChange,
  onCommit,
  width,
}: Parameters<typeof Rule>[0] & { width: number }) {
  // The scale stands still under the hand: it is chosen for the gain at which the slide was last let go.
  const [shown, setShown] = useState({ treated, spec });
  const [drag, setDrag] = useState<{ startX: number; startGainDb: number }>();
  if (!drag && (shown.treated !== treated || shown.spec !== spec)) setShown({ treated, spec });
  const scale = ruleScale(shown.treated, [spec, ...others], width);
  const top = others.length * THIN_HEIGHT;

  const gainAt = (clientX: number, from: NonNullable<typeof drag>) =>
    stepped(from.startGainDb + (clientX - from.startX) * dbPerPixel(scale));
  const startDrag = (event: PointerEvent<SVGGElement>) => {
    if (event.button !== 0) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    setDrag({ startX: event.clientX, startGainDb: gainDb });
  };
  const moveDrag = (event: PointerEvent<SVGGElement>) => {
    if (drag) onChange(gainAt(event.clientX, drag));
  };
  const endDrag = (event: PointerEvent<SVGGElement>) => {
    if (!drag) return;
    setDrag(undefined);
    onCommit(gainAt(event.clientX, drag));
  };
  const pressKey = (event: KeyboardEvent<SVGGElement>) => {
    const change = keyChange(event);
    if (change === undefined) return;
    event.preventDefault();
    onCommit(stepped(gainDb + change));
  };

  return (
    <svg width={width} height={HEIGHT + top} className="block select-none">
      <title>Slide rule of {[spec, ...others].map(({ name }) => name).join(', ')}</title>
      <Hatch id="rule-hatch-stock" className="stroke-breach-line/50" />
      <Hatch id="rule-hatch-slide" className="stroke-breach-line" />
      {others.map((other, i) => (
        <ThinStock key={other.id} spec={other} treated={treated} scale={scale} top={i * THIN_HEIGHT} />
      ))}
      <g transform={`translate(0 ${top})`}>
        <Stock spec={spec} scale={scale} />
        <g
          role="slider"
          tabIndex={0}
          aria-label="Gain"
          aria-valuemin={-GAIN_LIMIT_DB}
          aria-valuemax={GAIN_LIMIT_DB}
          aria-valuenow={gainDb}
          aria-valuetext={formatGain(gainDb, 2)}
          className={classNames('outline-offset-2', drag ? 'cursor-grabbing' : 'cursor-grab')}
          style={{ touchAction: 'none' }}
          onPointerDown={startDrag}
          onPointerMove={moveDrag}
          onPointerUp={endDrag}
          onPointerCancel={endDrag}
          onKeyDown={pressKey}
        >
          <Slide spec={spec} source={source} treated={treated} gainDb={gainDb} scale={scale} />
        </g>
        <ScaleNumbers scale={scale} />
        <Cursor treated={treated} spec={spec} scale={scale} />
      </g>
    </svg>
  );
}

function stepped(gainDb: number): number {
  return roundGain(Math.round(gainDb / STEP_DB) * STEP_DB);
}

/** What a key changes the gain by: arrows a tenth, with Shift a whole dB. */
function keyChange({ key, shiftKey }: KeyboardEvent): number | undefined {
  const step = shiftKey ? LARGE_STEP_DB : STEP_DB;
  switch (key) {
    case 'ArrowUp':
    case 'ArrowRight':
      return step;
    case 'ArrowDown':
    case 'ArrowLeft':
      return -step;
    default:
      return undefined;
  }
}

function Stock({ spec, scale }: { spec: Spec; scale: RuleScale }) {
  const { ceiling } = spec.peak;
  const ceilingX = toX(scale, ceiling);
  const { loudness } = spec;
  const measure = loudness?.measure === 'rms' ? 'RMS' : 'target';
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
          text={
            loudness.toleranceBelow === loudness.toleranceAbove
              ? `${measure} ${formatNumber(loudness.target)} ±${formatNumber(loudness.toleranceAbove)}`
              : `${measure} ${formatNumber(loudness.target)}`
          }
          nameWidth={spec.name.length * 7 + 30}
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
            short-term ≤ {formatNumber(spec.maxShortTermLufs)}
          </text>
        </g>
      ) : null}
      <line x1={ceilingX} x2={ceilingX} y1="0" y2={STOCK_HEIGHT} className="stroke-ink" strokeWidth="2" />
      <text x={ceilingX - 6} y="17" textAnchor="end" className="fill-ink text-xs font-semibold">
        ceiling {formatLevel(ceiling, peakUnit(spec))}
      </text>
      <Ticks scale={scale} offsetDb={0} fromY={STOCK_HEIGHT} upward className="stroke-stock-ink" />
    </g>
  );
}

/** Another spec over the same slide: its window and its ceiling, and whether they are met. */
function ThinStock({ spec, treated, scale, top }: { spec: Spec; treated: Readings; scale: RuleScale; top: number }) {
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
  const half = (text.length * 7) / 2;
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

function Slide({
  spec,
  source,
  treated,
  gainDb,
  scale,
}: {
  spec: Spec;
  source: Readings;
  treated: Readings;
  gainDb: number;
  scale: RuleScale;
}) {
  const limit = spec.peak.ceiling + spec.peak.allowanceDb;
  const peak = specPeak(treated, spec);
  const isOver = peak !== null && peak > limit + 0.001;
  const at = (db: number) => toX(scale, db);
  const { loudnessRangeLowLufs: low, loudnessRangeHighLufs: high } = treated;
  return (
    <g>
      <rect y={SLIDE_TOP} width={scale.width} height={SLIDE_BOTTOM - SLIDE_TOP} rx="8" className="fill-slide-1" />
      <Ticks scale={scale} offsetDb={gainDb} fromY={SLIDE_TOP} className="stroke-slide-ink" />
      {low !== null && high !== null ? (
        <rect
          x={at(low)}
          y={MARKS_Y - 4}
          width={Math.max(3, at(high) - at(low))}
          height="8"
          rx="3"
          className="fill-slide-2"
        />
      ) : null}
      {isOver ? (
        <rect
          x={at(limit)}
          y={SLIDE_TOP}
          width={at(peak) - at(limit)}
          height={LABELS_Y - SLIDE_TOP - 12}
          fill="url(#rule-hatch-slide)"
        />
      ) : null}
      {treated.maxShortTermLufs !== null ? (
        <circle cx={at(treated.maxShortTermLufs)} cy={MARKS_Y} r="4.5" className="fill-slide-ink" />
      ) : null}
      {treated.maxMomentaryLufs !== null ? (
        <circle
          cx={at(treated.maxMomentaryLufs)}
          cy={MARKS_Y}
          r="4.5"
          className="fill-slide-1 stroke-slide-ink"
          strokeWidth="2"
        />
      ) : null}
      {peak !== null ? (
        <rect
          x={at(peak) - 1.5}
          y={SLIDE_TOP}
          width="3"
          height={LABELS_Y - SLIDE_TOP - 10}
          className={isOver ? 'fill-breach-line' : 'fill-slide-ink'}
        />
      ) : null}
      {placeLabels(slideLabels(treated, spec, scale, isOver), scale.width).map((label) => (
        <text
          key={label.key}
          x={label.x}
          y={LABELS_Y + label.lane * LANE_HEIGHT}
          textAnchor={label.anchor}
          className={classNames(
            'text-xs font-semibold',
            label.isBreach ? 'fill-breach' : label.key === 'loudness' ? 'fill-ink' : 'fill-slide-ink',
          )}
        >
          {label.text}
        </text>
      ))}
      {source.samplePeakDbfs === null ? (
        <text x="10" y={MARKS_Y + 4} className="fill-mute text-xs">
          silence: nothing to slide
        </text>
      ) : null}
    </g>
  );
}

function slideLabels(treated: Readings, spec: Spec, scale: RuleScale, isOver: boolean): RuleLabel[] {
  const labels: RuleLabel[] = [];
  const add = (key: string, db: number | null, text: (db: number) => string, isBreach = false) => {
    if (db !== null) labels.push({ key, x: toX(scale, db), text: text(db), isBreach });
  };
  const isRms = spec.loudness?.measure === 'rms';
  add(
    'loudness',
    isRms ? treated.rmsDbfs : treated.integratedLufs,
    (db) => `${isRms ? 'RMS' : 'integrated'} ${formatNumber(db)}`,
  );
  add('range', treated.loudnessRangeLowLufs, () => `range ${formatLevel(treated.loudnessRangeLu, 'LU')}`);
  add('short', treated.maxShortTermLufs, (db) => `short ${formatNumber(db)}`);
  add('mom', treated.maxMomentaryLufs, (db) => `mom. ${formatNumber(db)}`);
  const limit = spec.peak.ceiling + spec.peak.allowanceDb;
  add(
    'peak',
    specPeak(treated, spec),
    (db) => (isOver ? `peak ${formatNumber(db)}, ${formatNumber(db - limit)} dB over` : `peak ${formatNumber(db)}`),
    isOver,
  );
  return labels;
}

/** The hairline through both parts, at the programme's loudness. */
function Cursor({ treated, spec, scale }: { treated: Readings; spec: Spec; scale: RuleScale }) {
  const loudness = spec.loudness?.measure === 'rms' ? treated.rmsDbfs : treated.integratedLufs;
  if (loudness === null) return null;
  const x = toX(scale, loudness);
  return (
    <g className="pointer-events-none">
      <line x1={x} x2={x} y1="22" y2={MARKS_Y + 8} className="stroke-breach-line" strokeWidth="1.25" />
      <path d={`M ${x} ${SLIDE_TOP} l 6 11 h -12 z`} className="fill-slide-ink" />
    </g>
  );
}

function Ticks({
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

function ScaleNumbers({ scale }: { scale: RuleScale }) {
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
