'use client';

import { useEffect, useRef } from 'react';
import type { LiveReadings } from '@/core/loudness/live-meter';
import type { Spec } from '@/core/spec/spec';
import type { Level } from '@/core/units/decibel';
import type { RuleScale } from '../rule/rule-geometry';
import { HEIGHT } from '../rule/rule-size';
import { useColours } from '../use-colours';
import { drawGauge, type GaugeMoment } from './draw-gauge';
import type { LiveHistory } from './live-history';

/** What is drawn follows what is read within about so long: ten readings a second become a movement. */
const FOLLOW_MS = 60;
/** Nearer than this, it has arrived. */
const ARRIVED_DB = 0.02;

/** What the gauge reads, whenever it is told that there is something new. */
export interface GaugeSource {
  get(): { readings: LiveReadings; reductionDb: number; history: LiveHistory };
  subscribe(listener: () => void): () => void;
}

/** The gauge, drawn once for each picture of the screen while anything moves. What it shows is said in words beside it. */
export function GaugeCanvas({
  live,
  spec,
  scale,
  zoom,
  top,
  channelLabels,
}: {
  live: GaugeSource;
  spec: Spec;
  scale: RuleScale;
  zoom: number;
  /** Of the first stock, in the rule's own pixels. */
  top: number;
  channelLabels: readonly string[];
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const colours = useColours();
  useEffect(() => {
    const element = canvas.current;
    const context = element?.getContext('2d');
    if (!element || !context || !colours) return;
    const ratio = window.devicePixelRatio;
    element.width = Math.round(scale.width * zoom * ratio);
    element.height = Math.round(HEIGHT * zoom * ratio);
    const { loudness, peak } = spec;
    const face = {
      scale,
      ceilingDb: peak.ceiling,
      limitDb: peak.ceiling + peak.allowanceDb + 0.001,
      window:
        loudness?.measure === 'integrated'
          ? { low: loudness.target - loudness.toleranceBelow, high: loudness.target + loudness.toleranceAbove }
          : undefined,
      colours,
      fontFamily: getComputedStyle(element).fontFamily,
    };
    // Whoever wants no movement sees what is read, as it is read.
    const isCalm = window.matchMedia('(prefers-reduced-motion: reduce)').matches;
    let shown = momentOf(live.get(), channelLabels, isCalm);
    let drawnMs = performance.now();
    let request: number | undefined;
    const draw = () => {
      context.setTransform(zoom * ratio, 0, 0, zoom * ratio, 0, 0);
      context.clearRect(0, 0, scale.width, HEIGHT);
      drawGauge(context, shown, face);
    };
    const step = (nowMs: number) => {
      const share = isCalm ? 1 : 1 - Math.exp(-Math.max(0, nowMs - drawnMs) / FOLLOW_MS);
      drawnMs = nowMs;
      const moved = followed(shown, momentOf(live.get(), channelLabels, isCalm), share);
      shown = moved.moment;
      draw();
      request = moved.hasArrived ? undefined : requestAnimationFrame(step);
    };
    const wake = () => {
      if (request !== undefined) return;
      drawnMs = performance.now();
      request = requestAnimationFrame(step);
    };
    draw();
    const leave = live.subscribe(wake);
    return () => {
      leave();
      if (request !== undefined) cancelAnimationFrame(request);
    };
  }, [live, spec, scale, zoom, channelLabels, colours]);
  return (
    <canvas
      ref={canvas}
      aria-hidden
      data-gauge
      className="pointer-events-none absolute left-0"
      style={{ top: top * zoom, width: scale.width * zoom, height: HEIGHT * zoom }}
    />
  );
}

function momentOf(
  { readings, reductionDb, history }: ReturnType<GaugeSource['get']>,
  channelLabels: readonly string[],
  isCalm: boolean,
): GaugeMoment {
  return {
    momentaryLufs: readings.momentaryLufs,
    shortTermLufs: readings.shortTermLufs,
    integratedLufs: readings.integratedLufs,
    rangeLowLufs: readings.loudnessRangeLowLufs,
    rangeHighLufs: readings.loudnessRangeHighLufs,
    peaks: readings.peaks.map(({ nowDbtp, maxDbtp }, c) => ({ label: channelLabels[c] ?? '', nowDbtp, maxDbtp })),
    reductionDb,
    momentaryTrail: isCalm ? [] : history.momentaryLufs,
    shortTermTrail: history.shortTermLufs,
  };
}

/** What was shown, moved by a share of the way towards what is read. What comes or goes does so at once. */
function followed(shown: GaugeMoment, read: GaugeMoment, share: number): { moment: GaugeMoment; hasArrived: boolean } {
  let hasArrived = true;
  const towards = (from: Level, to: Level): Level => {
    if (from === null || to === null || Math.abs(to - from) <= ARRIVED_DB) return to;
    hasArrived = false;
    return from + (to - from) * share;
  };
  const moment = {
    ...read,
    momentaryLufs: towards(shown.momentaryLufs, read.momentaryLufs),
    shortTermLufs: towards(shown.shortTermLufs, read.shortTermLufs),
    integratedLufs: towards(shown.integratedLufs, read.integratedLufs),
    rangeLowLufs: towards(shown.rangeLowLufs, read.rangeLowLufs),
    rangeHighLufs: towards(shown.rangeHighLufs, read.rangeHighLufs),
    peaks: read.peaks.map((peak, c) => ({
      ...peak,
      nowDbtp: towards(shown.peaks[c]?.nowDbtp ?? null, peak.nowDbtp),
    })),
  };
  return { moment, hasArrived };
}
