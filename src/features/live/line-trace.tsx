'use client';

import { useEffect, useRef, useState } from 'react';
import type { Spec } from '@/core/spec/spec';
import { BINS_PER_SECOND } from '@/core/units/frames';
import { useColours } from '@/features/common/use-colours';
import { useSize } from '@/features/common/use-size';
import type { LogStep } from '@/server/lines/line-log';
import { Segments } from '@/ui/segments';
import { drawTrace, type TraceSeries } from './draw-trace';
import type { LineStore } from './line-store';
import { lineTraceMessages as messages } from './messages';
import { useLog } from './use-log';

const RANGES = ['minute', 'tenMinutes', 'day'] as const;
type Range = (typeof RANGES)[number];

const RANGE_SECONDS: Readonly<Record<Range, number>> = { minute: 60, tenMinutes: 600, day: 86_400 };
const BIN_MS = 1000 / BINS_PER_SECOND;

/** Levels along time: the last minute as it sounds, ten minutes of seconds, or the day as it was logged. */
export function LineTrace({
  lineId,
  store,
  spec,
  day,
}: {
  lineId: string;
  store: LineStore;
  spec: Spec;
  /** The last 24 hours, minute by minute. */
  day: readonly LogStep[];
}) {
  const [range, setRange] = useState<Range>('minute');
  const [frame, { width, height }] = useSize<HTMLDivElement>();
  const canvas = useRef<HTMLCanvasElement>(null);
  const colours = useColours();
  const { data: earlier = [] } = useLog(lineId, { seconds: 600, stepSeconds: 1, isOn: range === 'tenMinutes' });
  useEffect(() => {
    const element = canvas.current;
    const context = element?.getContext('2d');
    if (!element || !context || !colours || width === 0) return;
    const ratio = window.devicePixelRatio;
    element.width = Math.round(width * ratio);
    element.height = Math.round(height * ratio);
    const fontFamily = getComputedStyle(element).fontFamily;
    let request: number | undefined;
    const draw = () => {
      request = undefined;
      const { live, events } = store.get();
      const nowMs = live.state === 'sounding' ? (live.momentMs ?? Date.now()) : Date.now();
      const series =
        range === 'minute' ? minuteOf(store) : range === 'tenMinutes' ? ofSeconds(earlier, store) : ofSteps(day);
      context.setTransform(ratio, 0, 0, ratio, 0, 0);
      const fromMs = nowMs - 1000 * RANGE_SECONDS[range];
      drawTrace(context, series, events, { width, height, fromMs, toMs: nowMs, spec, colours, fontFamily });
    };
    const wake = () => {
      request ??= requestAnimationFrame(draw);
    };
    draw();
    // Also while nothing comes, time goes on.
    const timer = setInterval(wake, 1000);
    const leave = store.subscribe(wake);
    return () => {
      leave();
      clearInterval(timer);
      if (request !== undefined) cancelAnimationFrame(request);
    };
  }, [store, spec, range, earlier, day, width, height, colours]);
  return (
    <section className="flex min-h-0 grow flex-col gap-1" aria-label={messages.trace}>
      <header className="flex flex-wrap items-center justify-between gap-x-3 gap-y-1">
        <p className="flex flex-wrap gap-x-4 text-xs text-mute" aria-hidden>
          {range === 'day' ? null : (
            <span>
              <i className="mr-1.5 inline-block w-4 border-t border-slide-2 align-middle" />
              {messages.momentary}
            </span>
          )}
          <span>
            <i className="mr-1.5 inline-block w-4 border-t-[3px] border-slide-ink align-middle" />
            {messages.shortTerm}
          </span>
          <span>
            <i className="mr-1.5 inline-block w-4 border-t-2 border-dashed border-stock-ink align-middle" />
            {messages.integrated}
          </span>
        </p>
        <Segments
          label={messages.range}
          value={range}
          options={RANGES.map((value) => ({ value, label: messages.ranges[value] }))}
          onChange={setRange}
        />
      </header>
      <div ref={frame} className="min-h-32 grow overflow-hidden">
        <canvas
          ref={canvas}
          role="img"
          aria-label={messages.about(messages.ranges[range])}
          className="block"
          style={{ width, height }}
        />
      </div>
    </section>
  );
}

function minuteOf(store: LineStore): TraceSeries {
  const { recent } = store;
  const lastMs = store.get().live.momentMs ?? 0;
  const count = recent.momentaryLufs.length;
  return {
    timesMs: recent.momentaryLufs.map((_, i) => lastMs - (count - 1 - i) * BIN_MS),
    momentaryLufs: recent.momentaryLufs,
    shortTermLufs: recent.shortTermLufs,
    minShortTermLufs: null,
    integratedLufs: recent.integratedLufs,
    stepMs: BIN_MS,
  };
}

/** What was logged before the page was opened, and what came since. */
function ofSeconds(earlier: readonly LogStep[], { seconds }: LineStore): TraceSeries {
  const lastS = earlier.at(-1)?.atS ?? 0;
  const since = seconds.filter(({ atS }) => atS > lastS);
  return {
    timesMs: [...earlier.map(({ atS }) => atS * 1000), ...since.map(({ atS }) => atS * 1000)],
    momentaryLufs: [...earlier.map((own) => own.maxMomentaryLufs), ...since.map((own) => own.momentaryLufs)],
    shortTermLufs: [...earlier.map((own) => own.maxShortTermLufs), ...since.map((own) => own.shortTermLufs)],
    minShortTermLufs: null,
    integratedLufs: [...earlier, ...since].map((own) => own.integratedLufs),
    stepMs: 1000,
  };
}

function ofSteps(steps: readonly LogStep[]): TraceSeries {
  return {
    timesMs: steps.map(({ atS }) => atS * 1000),
    momentaryLufs: steps.map((own) => own.maxMomentaryLufs),
    shortTermLufs: steps.map((own) => own.maxShortTermLufs),
    minShortTermLufs: steps.map((own) => own.minShortTermLufs),
    integratedLufs: steps.map((own) => own.integratedLufs),
    stepMs: 60_000,
  };
}
