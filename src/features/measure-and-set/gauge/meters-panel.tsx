'use client';

import type { ReactNode } from 'react';
import { useEffect, useRef, useState } from 'react';
import type { LivePeak } from '@/core/loudness/live-meter';
import type { Spec } from '@/core/spec/spec';
import type { Level } from '@/core/units/decibel';
import { formatLevel, formatNumber, formatTime } from '@/core/units/format';
import { GAUGE_SCALES, type GaugeScale, zeroLufs } from '@/features/common/gauge/gauge-scale';
import { integratedState, limitState, peakState } from '@/features/common/gauge/live-states';
import { type MarkState, StateMark } from '@/features/common/state-mark';
import { useSize } from '@/features/common/use-size';
import { Button } from '@/ui/button';
import { Segments } from '@/ui/segments';
import { type LiveStore, useLive } from '../audition/live-store';
import { metersPanelMessages as messages } from './messages';
import { ReductionHistory } from './reduction-history';

/** Bound to a key by whatever holds the panel: says the readings, once for each time it is asked. */
export type Say = { asked: number };

/** What is read of what is heard, in numbers that are read from across the room, each held against the spec. */
export function MetersPanel({
  live,
  isPlaying,
  spec,
  scale,
  onScale,
  channelLabels,
  heardHz,
  say,
  sayKey,
  onSay,
  onClear,
}: {
  live: LiveStore;
  isPlaying: boolean;
  spec: Spec;
  scale: GaugeScale;
  onScale: (scale: GaugeScale) => void;
  channelLabels: readonly string[];
  heardHz: number;
  say: Say;
  sayKey: string;
  onSay: () => void;
  onClear: () => void;
}) {
  const { readings, reductionDb, mostReductionDb, hasBegun, isHeld } = useLive(live);
  const [frame, { height }] = useSize<HTMLDivElement>();
  // On an EBU scale, loudness is told as the scale is: from the target.
  const [zero, unit] = scale === 'absolute' ? [0, 'LUFS'] : [zeroLufs(spec), 'LU'];
  const from = (level: Level) => (level === null ? null : level - zero);
  const most = (level: Level) =>
    level === null ? '' : messages.most(formatNumber(level - zero, 1, { plus: zero !== 0 }));
  const peak = highest(readings.peaks);
  return (
    <fieldset
      aria-label={messages.readings}
      data-playing={isPlaying}
      className="flex min-h-0 shrink-0 flex-col gap-1 border-dashed border-hair lg:w-66 lg:border-l lg:pl-4"
    >
      <div ref={frame} className="min-h-28 grow overflow-hidden [contain:strict]">
        <dl className="flex h-full flex-col justify-between leading-none" style={{ fontSize: fontSize(height) }}>
          <Row
            name="M"
            label={messages.momentary}
            hint={messages.momentaryHint}
            level={from(readings.momentaryLufs)}
            value={readings.momentaryLufs}
            mostValue={readings.maxMomentaryLufs}
            isSigned={zero !== 0}
            unit={unit}
            beside={most(readings.maxMomentaryLufs)}
            state={limitState(readings.maxMomentaryLufs, spec.maxMomentaryLufs)}
          />
          <Row
            name="S"
            label={messages.shortTerm}
            hint={messages.shortTermHint}
            level={from(readings.shortTermLufs)}
            value={readings.shortTermLufs}
            mostValue={readings.maxShortTermLufs}
            isSigned={zero !== 0}
            unit={unit}
            beside={most(readings.maxShortTermLufs)}
            state={limitState(readings.maxShortTermLufs, spec.maxShortTermLufs)}
          />
          <Row
            name="I"
            label={messages.integrated}
            hint={messages.integratedHint}
            level={from(readings.integratedLufs)}
            value={readings.integratedLufs}
            isSigned={zero !== 0}
            unit={unit}
            isLarge
            state={integratedState(readings, spec)}
          />
          <Row
            name="LRA"
            label={messages.range}
            hint={messages.rangeHint}
            level={readings.loudnessRangeLu}
            value={readings.loudnessRangeLu}
            unit="LU"
          />
          <Row
            name="TP"
            label={messages.truePeak}
            hint={messages.truePeakHint}
            level={readings.truePeakDbtp}
            value={readings.truePeakDbtp}
            unit="dBTP"
            beside={peakPlace(readings.peaks, peak, channelLabels, heardHz)}
            state={peakState(readings, spec)}
          />
          <Row
            name="GR"
            label={messages.reduction}
            hint={messages.reductionHint}
            level={hasBegun ? -reductionDb : null}
            value={hasBegun ? -reductionDb : null}
            mostValue={hasBegun ? -mostReductionDb : null}
            unit="dB"
            beside={mostReductionDb > 0 ? messages.most(formatNumber(-mostReductionDb)) : ''}
          />
        </dl>
      </div>
      <div className="flex items-center gap-2">
        <span className="w-24 shrink-0 truncate text-[11px] text-mute">
          {(isHeld ? messages.held : messages.measured)(formatTime(readings.seconds))}
        </span>
        <ReductionHistory live={live} />
      </div>
      <div className="flex items-center justify-between gap-1.5">
        <Button
          kind="inline"
          title={messages.holdHint}
          aria-label={isHeld ? messages.continueMeters : messages.pauseMeters}
          onClick={() => live.setHeld(!isHeld)}
        >
          {isHeld ? messages.goOn : messages.hold}
        </Button>
        <Button
          kind="inline"
          whyNot={hasBegun ? null : messages.nothingHeard}
          aria-label={messages.resetMeters}
          onClick={onClear}
        >
          {messages.reset}
        </Button>
        <Button kind="inline" title={messages.sayHint(sayKey)} onClick={onSay}>
          {messages.say}
        </Button>
        <Segments
          label={messages.scale}
          value={scale}
          options={GAUGE_SCALES.map((id) => ({
            value: id,
            label: messages.scales[id].name,
            hint: messages.scales[id].hint,
          }))}
          onChange={onScale}
        />
      </div>
      <Said live={live} say={say} />
    </fieldset>
  );
}

const LEAST_FONT = 13;
const MOST_FONT = 30;

/** Six rows, of which one is larger by a third, fill what height there is. */
function fontSize(height: number): number {
  return Math.min(MOST_FONT, Math.max(LEAST_FONT, Math.floor(height / 7.6)));
}

function Row({
  name,
  label,
  hint,
  level,
  value,
  mostValue,
  unit,
  beside = '',
  state,
  isLarge = false,
  isSigned = false,
}: {
  name: string;
  label: string;
  hint: string;
  /** As it is shown. */
  level: Level;
  /** As it is read. */
  value: Level;
  mostValue?: Level;
  unit: string;
  beside?: ReactNode;
  state?: MarkState | null;
  isLarge?: boolean;
  isSigned?: boolean;
}) {
  return (
    <div
      className="grid grid-cols-[4.3rem_1fr_minmax(3.3em,auto)_2.1rem_0.8rem] items-baseline gap-x-1 [contain:layout_paint]"
      title={hint}
      data-reading={name}
      data-value={value ?? undefined}
      data-most={mostValue ?? undefined}
    >
      <dt className="text-xs whitespace-nowrap text-mute">{label}</dt>
      <dd className="truncate text-right font-mono text-[11px] text-mute">{beside}</dd>
      <dd className={isLarge ? 'text-right font-mono text-[1.35em] font-bold' : 'text-right font-mono font-bold'}>
        {level === null ? '◌' : formatNumber(level, 1, { plus: isSigned })}
      </dd>
      <dd className="text-[11px] text-mute">{unit}</dd>
      <dd className="w-[1em] text-xs">{state ? <StateMark state={state} /> : null}</dd>
    </div>
  );
}

/** Says the readings to whoever can't see them, once for each time it is asked. */
function Said({ live, say }: { live: LiveStore; say: Say }) {
  const [text, setText] = useState('');
  const heard = useRef(say.asked);
  useEffect(() => {
    if (heard.current === say.asked) return;
    heard.current = say.asked;
    const { readings, hasBegun } = live.get();
    // The same once more is said only if it is not the same.
    const end = say.asked % 2 === 0 ? '' : '\u00a0';
    setText(
      end +
        (hasBegun
          ? messages.said({
              momentary: formatLevel(readings.momentaryLufs, 'LUFS'),
              shortTerm: formatLevel(readings.shortTermLufs, 'LUFS'),
              integrated: formatLevel(readings.integratedLufs, 'LUFS'),
              range: formatLevel(readings.loudnessRangeLu, 'LU'),
              peak: formatLevel(readings.truePeakDbtp, 'dBTP'),
            })
          : messages.nothingHeard),
    );
  }, [live, say]);
  return (
    <p role="status" className="sr-only">
      {text}
    </p>
  );
}

/** Number of the channel with the highest peak; -1 where there is none. */
function highest(peaks: readonly LivePeak[]): number {
  const levels = peaks.map(({ maxDbtp }) => maxDbtp ?? Number.NEGATIVE_INFINITY);
  const most = Math.max(...levels);
  return Number.isFinite(most) ? levels.indexOf(most) : -1;
}

function peakPlace(peaks: readonly LivePeak[], highestOf: number, labels: readonly string[], heardHz: number): string {
  const frame = peaks[highestOf]?.maxFrame;
  if (frame == null) return '';
  return `${labels[highestOf] ?? ''} ${formatTime(Math.max(0, frame) / heardHz)}`.trim();
}
