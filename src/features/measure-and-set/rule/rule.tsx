'use client';

import { type KeyboardEvent, type PointerEvent, useMemo, useState } from 'react';
import type { Readings } from '@/core/loudness/readings';
import type { Spec } from '@/core/spec/spec';
import { GAIN_LIMIT_DB, roundGain } from '@/core/treatment/steps/gain';
import { formatGain } from '@/core/units/format';
import { GaugeCanvas } from '@/features/common/gauge/gauge-canvas';
import { type GaugeScale, gaugeScale, zeroLufs } from '@/features/common/gauge/gauge-scale';
import { Hatch } from '@/features/common/hatch';
import { dbPerPixel, type RuleScale, ruleScale, toX } from '@/features/common/rule/rule-geometry';
import { HEIGHT, MARKS_Y, SLIDE_TOP, THIN_HEIGHT } from '@/features/common/rule/rule-size';
import { ScaleNumbers } from '@/features/common/rule/scale';
import { Stock, ThinStock } from '@/features/common/rule/stock';
import { useSize } from '@/features/common/use-size';
import { classNames } from '@/ui/class-names';
import type { LiveStore } from '../audition/live-store';
import { ruleMessages as messages } from './messages';
import { Slide } from './slide';

const STEP_DB = 0.1;
const LARGE_STEP_DB = 1;
/** Where there is room, all of the rule is drawn so much larger at most. */
const MOST_ZOOM = 2;

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
  /** The rule in motion: what is heard, in place of what was calculated. */
  gauge: { live: LiveStore; scale: GaugeScale; channelLabels: readonly string[] } | null;
}) {
  const [frame, { width, height }] = useSize<HTMLDivElement>();
  const least = HEIGHT + props.others.length * THIN_HEIGHT;
  const zoom = Math.min(MOST_ZOOM, Math.max(1, height / least));
  return (
    <div ref={frame} style={{ minHeight: least }} className="relative w-full grow">
      {width > 0 ? <RuleDrawing {...props} width={Math.floor(width / zoom)} zoom={zoom} /> : null}
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
  gauge,
  width,
  zoom,
}: Parameters<typeof Rule>[0] & {
  /** Before it is enlarged. */
  width: number;
  zoom: number;
}) {
  // The scale stands still under the hand: it is chosen for the gain at which the slide was last let go.
  const [shown, setShown] = useState({ treated, spec });
  const [drag, setDrag] = useState<{ startX: number; startGainDb: number }>();
  if (!drag && (shown.treated !== treated || shown.spec !== spec)) setShown({ treated, spec });
  const ruled = ruleScale(shown.treated, [spec, ...others], width);
  const { lowDb, highDb } = gauge ? gaugeScale(gauge.scale, spec, ruled) : ruled;
  const scale = useMemo(() => ({ lowDb, highDb, width }), [lowDb, highDb, width]);
  const zeroDb = gauge && gauge.scale !== 'absolute' ? zeroLufs(spec) : 0;
  const top = others.length * THIN_HEIGHT;

  const gainAt = (clientX: number, from: NonNullable<typeof drag>) =>
    stepped(from.startGainDb + ((clientX - from.startX) / zoom) * dbPerPixel(scale));
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
    <>
      <svg
        width={width * zoom}
        height={(HEIGHT + top) * zoom}
        viewBox={`0 0 ${width} ${HEIGHT + top}`}
        className="block select-none"
      >
        <title>{messages.slideRuleOf([spec, ...others].map(({ name }) => name).join(', '))}</title>
        <Hatch id="rule-hatch-stock" className="stroke-breach-line/80" />
        <Hatch id="rule-hatch-slide" className="stroke-breach-line" />
        {others.map((other, i) => (
          <ThinStock key={other.id} spec={other} treated={treated} scale={scale} top={i * THIN_HEIGHT} />
        ))}
        <g transform={`translate(0 ${top})`}>
          <Stock spec={spec} scale={scale} zeroDb={zeroDb} />
          <g
            role="slider"
            tabIndex={0}
            aria-label={messages.gain}
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
            <Slide
              spec={spec}
              source={source}
              treated={treated}
              gainDb={gainDb}
              scale={scale}
              zeroDb={zeroDb}
              isBare={gauge !== null}
            />
          </g>
          <ScaleNumbers scale={scale} zeroDb={zeroDb} />
          {gauge ? null : <Cursor treated={treated} spec={spec} scale={scale} />}
        </g>
      </svg>
      {gauge ? (
        <GaugeCanvas
          live={gauge.live}
          spec={spec}
          scale={scale}
          zoom={zoom}
          top={top}
          channelLabels={gauge.channelLabels}
        />
      ) : null}
    </>
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
