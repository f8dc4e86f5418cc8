'use client';

import { useEffect, useRef } from 'react';
import { HISTORY_BINS } from '@/features/common/gauge/live-history';
import { useColours } from '@/features/common/use-colours';
import { useSize } from '@/features/common/use-size';
import type { LiveStore } from '../audition/live-store';

const HEIGHT = 18;
/** The strip is this deep at least, and as deep as what is in it. */
const LEAST_DEPTH_DB = 6;

/** What the limiter took over the last 10 s, hanging from the ceiling, newest at the right. */
export function ReductionHistory({ live }: { live: LiveStore }) {
  const [frame, { width }] = useSize<HTMLDivElement>();
  const canvas = useRef<HTMLCanvasElement>(null);
  const colours = useColours();
  useEffect(() => {
    const element = canvas.current;
    const context = element?.getContext('2d');
    if (!element || !context || !colours || width === 0) return;
    const ratio = window.devicePixelRatio;
    element.width = Math.round(width * ratio);
    element.height = Math.round(HEIGHT * ratio);
    let drawn: readonly number[] | undefined;
    const draw = () => {
      const { reductionDb } = live.get().history;
      if (reductionDb === drawn) return;
      drawn = reductionDb;
      context.setTransform(ratio, 0, 0, ratio, 0, 0);
      context.clearRect(0, 0, width, HEIGHT);
      const depthDb = Math.max(LEAST_DEPTH_DB, ...reductionDb);
      const step = width / HISTORY_BINS;
      context.fillStyle = colours['breach-line'];
      for (const [i, db] of reductionDb.entries()) {
        const x = width - (reductionDb.length - i) * step;
        context.fillRect(x, 1, step + 0.3, ((HEIGHT - 2) * db) / depthDb);
      }
    };
    draw();
    return live.subscribe(draw);
  }, [live, width, colours]);
  return (
    <div ref={frame} aria-hidden className="min-w-0 grow border-t border-hair">
      <canvas ref={canvas} className="block" style={{ width, height: HEIGHT }} />
    </div>
  );
}
