'use client';

import { useQueryStates } from 'nuqs';
import { useEffect, useState } from 'react';
import type { Timeline } from '@/core/treatment/timeline';
import { ADDRESS } from '@/features/common/address';
import { TraceStore } from './trace/store';

/** What is looked at stays in the address once it has stood still for so long. */
const SETTLE_MS = 400;

/** What is looked at of a programme: begun as the address says, and kept in it. */
export function useTraceStore(
  { sampleRateHz }: { sampleRateHz: number },
  { firstFrame, lastFrame }: Timeline,
): TraceStore {
  const [{ from, to, span: spanFrom, 'span-to': spanTo }, setAddress] = useQueryStates(ADDRESS);
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
    let written: Promise<unknown> | undefined;
    const write = () => {
      const { view, span } = store.get();
      const { whole } = store;
      const isWhole = view.startFrame <= whole.startFrame && view.endFrame >= whole.endFrame;
      const seconds = (frame: number | undefined) =>
        frame === undefined ? null : Number((frame / sampleRateHz).toFixed(6));
      const writing = setAddress({
        from: isWhole ? null : seconds(view.startFrame),
        to: isWhole ? null : seconds(view.endFrame),
        span: seconds(span?.startFrame),
        'span-to': seconds(span?.endFrame),
      }).finally(() => {
        if (written === writing) written = undefined;
      });
      written = writing;
    };
    let isLeaving = false;
    const leave = store.subscribe(() => {
      clearTimeout(timer);
      if (!isLeaving) timer = setTimeout(write, SETTLE_MS);
    });
    // Writing the address calls a page back that is on its way: whoever has followed a link is not held up by it.
    const stop = (event: MouseEvent) => {
      const link =
        event.target instanceof Element ? event.target.closest<HTMLElement>('a[href]:not([download])') : null;
      const isElsewhere = event.ctrlKey || event.metaKey || event.shiftKey || event.altKey;
      if (!link || isElsewhere) return;
      clearTimeout(timer);
      isLeaving = true;
      if (!written) return;
      // One that is being written is waited for.
      event.preventDefault();
      event.stopPropagation();
      void written.then(() => link.click());
    };
    document.addEventListener('click', stop, { capture: true });
    return () => {
      clearTimeout(timer);
      document.removeEventListener('click', stop, { capture: true });
      leave();
    };
  }, [store, sampleRateHz, setAddress]);
  return store;
}
