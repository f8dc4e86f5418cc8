'use client';

import type { LivePeak } from '@/core/loudness/live-meter';
import type { Spec } from '@/core/spec/spec';
import type { Level } from '@/core/units/decibel';
import { formatNumber, formatTime } from '@/core/units/format';
import { integratedState, limitState, peakState } from '@/features/common/gauge/live-states';
import { type MarkState, StateMark } from '@/features/common/state-mark';
import { clockTime } from './clock-time';
import type { LineStore } from './line-store';
import { lineReadingsMessages as messages } from './messages';
import { useLine } from './use-lines';

/** What a line reads, in numbers that are read from across the room, each held against the spec. */
export function LineReadings({ store, spec }: { store: LineStore; spec: Spec }) {
  const { readings, live } = useLine(store);
  const { maximaMs } = live;
  const most = (level: Level, atMs: number | null) =>
    level === null || atMs === null ? '' : messages.most(formatNumber(level), clockTime(atMs));
  const channel = highestChannel(readings.peaks);
  const channelLabel = live.format?.channelLabels[channel] ?? '';
  const peakAt = maximaMs.truePeakDbtp === null ? '' : messages.peakAt(clockTime(maximaMs.truePeakDbtp), channelLabel);
  return (
    <section aria-label={messages.readings} className="flex flex-col gap-1">
      <dl className="flex flex-col">
        <Row
          name="M"
          label={messages.momentary}
          level={readings.momentaryLufs}
          unit="LUFS"
          beside={most(readings.maxMomentaryLufs, maximaMs.maxMomentaryLufs)}
          state={limitState(readings.maxMomentaryLufs, spec.maxMomentaryLufs)}
        />
        <Row
          name="S"
          label={messages.shortTerm}
          level={readings.shortTermLufs}
          unit="LUFS"
          beside={most(readings.maxShortTermLufs, maximaMs.maxShortTermLufs)}
          state={limitState(readings.maxShortTermLufs, spec.maxShortTermLufs)}
        />
        <Row
          name="I"
          label={messages.integrated}
          level={readings.integratedLufs}
          unit="LUFS"
          state={integratedState(readings, spec)}
          isLarge
        />
        <Row name="LRA" label={messages.range} level={readings.loudnessRangeLu} unit="LU" />
        <Row
          name="TP"
          label={messages.truePeak}
          level={readings.truePeakDbtp}
          unit="dBTP"
          beside={peakAt}
          state={peakState(readings, spec)}
        />
      </dl>
      <p className="text-xs text-mute">
        {(live.isHeld ? messages.paused : messages.measured)(formatTime(readings.seconds))}
      </p>
    </section>
  );
}

/** Number of the channel with the highest peak; -1 where there is none. */
function highestChannel(peaks: readonly LivePeak[]): number {
  const levels = peaks.map(({ maxDbtp }) => maxDbtp ?? Number.NEGATIVE_INFINITY);
  return levels.indexOf(Math.max(...levels));
}

function Row({
  name,
  label,
  level,
  unit,
  beside = '',
  state = null,
  isLarge = false,
}: {
  name: string;
  label: string;
  level: Level;
  unit: string;
  beside?: string;
  state?: MarkState | null;
  isLarge?: boolean;
}) {
  return (
    <div
      data-reading={name}
      data-value={level ?? undefined}
      className="grid grid-cols-[4.4rem_1fr_auto_2.2rem_0.8rem] items-baseline gap-x-1.5 border-b border-hair py-1 [contain:layout_paint]"
    >
      <dt className="text-xs whitespace-nowrap text-mute">{label}</dt>
      <dd title={messages.mostHint} className="truncate text-right font-mono text-[11px] text-mute">
        {beside}
      </dd>
      <dd
        className={
          isLarge
            ? 'text-right font-mono text-[2rem] leading-9 font-bold'
            : 'text-right font-mono text-xl leading-7 font-bold'
        }
      >
        {level === null ? '◌' : formatNumber(level)}
      </dd>
      <dd className="text-[11px] text-mute">{unit}</dd>
      <dd className="text-xs">{state ? <StateMark state={state} /> : null}</dd>
    </div>
  );
}
