'use client';

import { type PointerEvent, useMemo, useState } from 'react';
import type { Over } from '@/core/peak/overs';
import type { Spec } from '@/core/spec/spec';
import { dbToAmplitude } from '@/core/units/decibel';
import { formatNumber, formatTime } from '@/core/units/format';
import { BINS_PER_SECOND } from '@/core/units/frames';
import type { Trace } from '@/features/common/use-trace';
import { type Place, placeOfOver } from './places';
import { useWidth } from './use-width';

export const TRACE_HEIGHT = 150;
const LEFT = 38;
const RIGHT = 38;
const TOP = 8;
const BOTTOM = 20;
const PLOT_HEIGHT = TRACE_HEIGHT - TOP - BOTTOM;
const TOP_LUFS = 0;
const BOTTOM_LUFS = -42;
const LOUDNESS_GRID = [-6, -12, -18, -24, -30, -36];
const PEAK_GRID = [0, -6, -12, -24];

const loudnessY = (lufs: number) =>
  TOP + ((TOP_LUFS - Math.min(TOP_LUFS, Math.max(BOTTOM_LUFS, lufs))) / (TOP_LUFS - BOTTOM_LUFS)) * PLOT_HEIGHT;
/** The waveform stands on the middle line; full scale reaches nearly to the edges. */
const MIDDLE = TOP + PLOT_HEIGHT / 2;
const FULL_SCALE_HEIGHT = PLOT_HEIGHT / 2 - 4;
/** Heights go by the square root of the amplitude: half for −12 dB, a quarter for −24, so that quiet parts are seen. */
const sampleY = (sample: number) =>
  MIDDLE - Math.sign(sample) * Math.min(PLOT_HEIGHT / 2, Math.sqrt(Math.abs(sample)) * FULL_SCALE_HEIGHT);

/** A programme along time, as it will sound after the gain. */
export function TraceDrawing(props: {
  trace: Trace;
  spec: Spec;
  gainDb: number;
  overs: readonly Over[];
  selected: Place | undefined;
}) {
  const [frame, width] = useWidth<HTMLDivElement>();
  return (
    <div ref={frame} style={{ height: TRACE_HEIGHT }}>
      {width > 0 ? <Drawing {...props} width={width} /> : null}
    </div>
  );
}

function Drawing({
  trace,
  spec,
  gainDb,
  overs,
  selected,
  width,
}: Parameters<typeof TraceDrawing>[0] & { width: number }) {
  const plotWidth = width - LEFT - RIGHT;
  const { meta } = trace;
  const seconds = meta.frames / meta.sampleRateHz;
  const timeX = (second: number) => LEFT + (second / seconds) * plotWidth;
  const [pointedX, setPointedX] = useState<number>();

  const waveform = useMemo(() => waveformPath(trace, dbToAmplitude(gainDb), plotWidth), [trace, gainDb, plotWidth]);
  const columnSeconds = meta.binsPerColumn / BINS_PER_SECOND;
  const { shortTerm, momentary } = trace;
  const shortTermPath = useMemo(
    () => curvePath(shortTerm, gainDb, plotWidth, columnSeconds / seconds),
    [shortTerm, gainDb, plotWidth, columnSeconds, seconds],
  );
  const momentaryPath = useMemo(
    () => curvePath(momentary, gainDb, plotWidth, columnSeconds / seconds),
    [momentary, gainDb, plotWidth, columnSeconds, seconds],
  );

  const pointed = pointedX === undefined ? undefined : ((pointedX - LEFT) / plotWidth) * seconds;
  const follow = (event: PointerEvent<SVGSVGElement>) => {
    const x = event.clientX - event.currentTarget.getBoundingClientRect().left;
    setPointedX(x >= LEFT && x <= width - RIGHT ? x : undefined);
  };
  const ceilingAmplitude = dbToAmplitude(spec.peak.ceiling);

  return (
    <svg
      width={width}
      height={TRACE_HEIGHT}
      className="block"
      role="img"
      aria-label={`Trace over ${formatTime(seconds)}: waveform, momentary and short-term loudness after ${formatNumber(gainDb, 1, { plus: true })} dB; ${overs.length} overs`}
      onPointerMove={follow}
      onPointerLeave={() => setPointedX(undefined)}
    >
      <rect x={LEFT} y={TOP} width={plotWidth} height={PLOT_HEIGHT} className="fill-paper" />
      {LOUDNESS_GRID.map((lufs) => (
        <g key={lufs}>
          <line x1={LEFT} x2={width - RIGHT} y1={loudnessY(lufs)} y2={loudnessY(lufs)} className="stroke-hair" />
          <text x={LEFT - 8} y={loudnessY(lufs) + 4} textAnchor="end" className="fill-mute font-mono text-[11px]">
            {formatNumber(lufs, 0)}
          </text>
        </g>
      ))}
      {PEAK_GRID.map((db) => (
        <text
          key={db}
          x={width - RIGHT + 8}
          y={sampleY(dbToAmplitude(db)) + 4}
          className="fill-mute font-mono text-[11px]"
        >
          {formatNumber(db, 0)}
        </text>
      ))}
      <path d={waveform} className="fill-stock-2" opacity="0.75" />
      {spec.loudness?.measure === 'integrated' ? (
        <rect
          x={LEFT}
          width={plotWidth}
          y={loudnessY(spec.loudness.target + spec.loudness.toleranceAbove)}
          height={Math.max(
            2,
            loudnessY(spec.loudness.target - spec.loudness.toleranceBelow) -
              loudnessY(spec.loudness.target + spec.loudness.toleranceAbove),
          )}
          className="fill-stock-3"
          opacity="0.55"
        />
      ) : null}
      {[1, -1].map((sign) => (
        <line
          key={sign}
          x1={LEFT}
          x2={width - RIGHT}
          y1={sampleY(sign * ceilingAmplitude)}
          y2={sampleY(sign * ceilingAmplitude)}
          strokeDasharray="2 3"
          className="stroke-breach-line"
          opacity="0.6"
        />
      ))}
      <path d={momentaryPath} fill="none" className="stroke-slide-2" strokeWidth="1" opacity="0.7" />
      <path d={shortTermPath} fill="none" className="stroke-slide-ink" strokeWidth="2" strokeLinejoin="round" />
      {selected && selected.frames > 0 ? (
        <rect
          x={timeX(selected.frame / meta.sampleRateHz)}
          width={Math.max(2, timeX(selected.frames / meta.sampleRateHz) - LEFT)}
          y={TOP}
          height={PLOT_HEIGHT}
          className="fill-slide-2 stroke-slide-ink"
          fillOpacity="0.25"
        />
      ) : null}
      {overs.map((over) => {
        const x = timeX(over.frame / meta.sampleRateHz);
        const isSelected = placeOfOver(over).key === selected?.key;
        return (
          <line
            key={over.startBin}
            x1={x}
            x2={x}
            y1={isSelected ? TOP - 6 : TOP}
            y2={isSelected ? TRACE_HEIGHT - BOTTOM : TOP + 12}
            className="stroke-breach-line"
            strokeWidth={isSelected ? 2 : 1.5}
          />
        );
      })}
      <TimeAxis seconds={seconds} width={width} plotWidth={plotWidth} />
      {pointedX !== undefined && pointed !== undefined ? (
        <Pointer x={pointedX} width={width} text={readout(trace, pointed, gainDb)} />
      ) : null}
    </svg>
  );
}

function TimeAxis({ seconds, width, plotWidth }: { seconds: number; width: number; plotWidth: number }) {
  const divisions = 6;
  return (
    <g>
      {Array.from({ length: divisions + 1 }, (_, i) => {
        const x = LEFT + (i / divisions) * plotWidth;
        return (
          <text
            // biome-ignore lint/suspicious/noArrayIndexKey: the divisions never change their order.
            key={i}
            x={x}
            y={TRACE_HEIGHT - 4}
            textAnchor={i === 0 ? 'start' : i === divisions ? 'end' : 'middle'}
            className="fill-mute font-mono text-[11px]"
          >
            {seconds < 10 ? `${formatNumber((seconds * i) / divisions, 1)} s` : formatTime((seconds * i) / divisions)}
          </text>
        );
      })}
      <line
        x1={LEFT}
        x2={width - RIGHT}
        y1={TRACE_HEIGHT - BOTTOM}
        y2={TRACE_HEIGHT - BOTTOM}
        className="stroke-hair"
      />
    </g>
  );
}

function Pointer({ x, width, text }: { x: number; width: number; text: string }) {
  const isLeft = x < width / 2;
  return (
    <g className="pointer-events-none">
      <line x1={x} x2={x} y1={TOP} y2={TRACE_HEIGHT - BOTTOM} className="stroke-ink" />
      <text
        x={isLeft ? x + 6 : x - 6}
        y={TRACE_HEIGHT - BOTTOM - 6}
        textAnchor={isLeft ? 'start' : 'end'}
        className="fill-ink font-mono text-[11px]"
        paintOrder="stroke"
        stroke="var(--color-sheet)"
        strokeWidth="4"
      >
        {text}
      </text>
    </g>
  );
}

function readout({ meta, shortTerm, peaks: series }: Trace, second: number, gainDb: number): string {
  const column = Math.floor((second * BINS_PER_SECOND) / meta.binsPerColumn);
  const lufs = (shortTerm[Math.min(shortTerm.length - 1, column)] ?? Number.NaN) + gainDb;
  const peak = Math.max(...series.peaks.map((peaks) => peaks[Math.min(peaks.length - 1, Math.max(0, column))] ?? 0));
  const parts = [formatTime(second, { milliseconds: true })];
  if (Number.isFinite(lufs)) parts.push(`S ${formatNumber(lufs)} LUFS`);
  if (peak > 0) parts.push(`${formatNumber(20 * Math.log10(peak) + gainDb)} dBTP`);
  return parts.join(' · ');
}

/** The waveform's outline, with the gain: along the greatest samples and back along the least. */
function waveformPath({ min, max }: Trace, amplitude: number, plotWidth: number): string {
  const columns = min.length;
  const x = (column: number) => (LEFT + ((column + 0.5) / columns) * plotWidth).toFixed(1);
  const upper = Array.from(max, (sample, i) => `${x(i)},${sampleY(sample * amplitude).toFixed(1)}`);
  const lower = Array.from(min, (sample, i) => `${x(i)},${sampleY(sample * amplitude).toFixed(1)}`);
  return `M${upper.join('L')}L${lower.reverse().join('L')}Z`;
}

/** A loudness curve whose columns each are a part of the whole, thinned to two points a pixel by keeping the greatest value of each; gaps where nothing is measured. */
function curvePath(curve: Float32Array, gainDb: number, plotWidth: number, columnPart: number): string {
  const stride = Math.max(1, Math.floor(curve.length / (plotWidth * 2)));
  let path = '';
  let isDown = false;
  for (let start = 0; start < curve.length; start += stride) {
    let value = Number.NEGATIVE_INFINITY;
    for (let i = start; i < Math.min(curve.length, start + stride); i++) value = Math.max(value, curve[i] as number);
    if (Number.isNaN(value)) {
      isDown = false;
      continue;
    }
    const x = LEFT + (start + stride) * columnPart * plotWidth;
    path += `${isDown ? 'L' : 'M'}${Math.min(x, LEFT + plotWidth).toFixed(1)},${loudnessY(value + gainDb).toFixed(1)}`;
    isDown = true;
  }
  return path;
}
