'use client';

import { useEffect, useState } from 'react';
import type { Timeline } from '@/core/treatment/timeline';
import { TraceStore } from './trace/store';

/** What is looked at stays in the address once it has stood still for so long. */
const SETTLE_MS = 400;

/** What a link says of where to look, in seconds. */
export interface LookedAt {
  from: number | null;
  to: number | null;
  spanFrom: number | null;
  spanTo: number | null;
}

/** What is looked at of a programme: begun as the address says, and kept in it. */
export function useTraceStore(
  { sampleRateHz }: { sampleRateHz: number },
  { firstFrame, lastFrame }: Timeline,
  { from, to, spanFrom, spanTo }: LookedAt,
): TraceStore {
  const [store] = useState(() => {
    const whole = { startFrame: firstFrame, endFrame: lastFrame };
    const stretch = (start: number | null, end: number | null) =>
      start !== null && end !== null && end > start
        ? { startFrame: start * sampleRateHz, endFrame: end * sampleRateHz }
        : undefined;
    const span = stretch(spanFrom, spanTo);
    return new TraceStore(whole, {
      view: stretch(from, to) ?? whole,
      span: span ? { startFrame: Math.round(span.startFrame), endFrame: Math.round(span.endFrame) } : null,
    });
  });
  useEffect(() => {
    store.setWhole({ startFrame: firstFrame, endFrame: lastFrame });
  }, [store, firstFrame, lastFrame]);
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout>;
    const write = () => {
      const { view, span } = store.get();
      const { whole } = store;
      const isWhole = view.startFrame <= whole.startFrame && view.endFrame >= whole.endFrame;
      const query = new URLSearchParams(window.location.search);
      const set = (name: string, frame: number | null) => {
        if (frame === null) query.delete(name);
        else query.set(name, `${Number((frame / sampleRateHz).toFixed(6))}`);
      };
      set('from', isWhole ? null : view.startFrame);
      set('to', isWhole ? null : view.endFrame);
      set('span', span?.startFrame ?? null);
      set('span-to', span?.endFrame ?? null);
      const address = `${window.location.pathname}?${query}`;
      if (address !== window.location.pathname + window.location.search) window.history.replaceState(null, '', address);
    };
    const leave = store.subscribe(() => {
      clearTimeout(timer);
      timer = setTimeout(write, SETTLE_MS);
    });
    return () => {
      clearTimeout(timer);
      leave();
    };
  }, [store, sampleRateHz]);
  return store;
}
