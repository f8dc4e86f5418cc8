'use client';

import { useEffect, useState } from 'react';
import { type Timeline, toTreatedFrame } from '@/core/treatment/timeline';
import type { Treatment } from '@/core/treatment/treatment';
import { fetchArrays, programmeAddress, type SourceKey } from '@/features/common/use-trace';
import type { ReductionStretch } from '@/workers/protocol';
import type { TraceStore } from './store';

/** Nearer than this the gain reduction itself is drawn, and not the greatest of every 100 ms. */
const MOST_SECONDS = 4;
const SETTLE_MS = 150;

/** The gain reduction that will be rendered, of what is looked at from near; null of what is not. */
export function useFineReduction(
  source: SourceKey,
  treatment: Treatment,
  timeline: Timeline,
  sampleRateHz: number,
  store: TraceStore,
): ReductionStretch | null {
  const [loaded, setLoaded] = useState<{ asked: string; part: ReductionStretch }>();
  const { limit } = treatment;
  const asked = limit && JSON.stringify({ ...treatment, outputGainDb: 0, fadeIn: null, fadeOut: null, dither: null });
  useEffect(() => {
    if (!asked) return;
    let timer: ReturnType<typeof setTimeout>;
    let abort = new AbortController();
    const fetchIt = async () => {
      const { view } = store.get();
      if (view.endFrame - view.startFrame > MOST_SECONDS * sampleRateHz) return;
      abort.abort();
      abort = new AbortController();
      const startFrame = Math.max(0, Math.floor(toTreatedFrame(timeline, view.startFrame)));
      const frames = Math.ceil(toTreatedFrame(timeline, view.endFrame)) - startFrame;
      if (frames < 1) return;
      const address = programmeAddress(source, 'reduction', { treatment: asked, startFrame, frames });
      const { meta, arrays } = await fetchArrays<Omit<ReductionStretch, 'reductions'>>(address, abort.signal);
      setLoaded({ asked, part: { ...meta, reductions: Object.values(arrays) as Float32Array[] } });
    };
    const ask = () => {
      clearTimeout(timer);
      // What can't be had is left to what is known of every 100 ms.
      timer = setTimeout(() => void fetchIt().catch(() => undefined), SETTLE_MS);
    };
    ask();
    const leave = store.subscribe(ask);
    return () => {
      clearTimeout(timer);
      abort.abort();
      leave();
    };
  }, [asked, source, timeline, sampleRateHz, store]);
  return loaded && loaded.asked === asked ? loaded.part : null;
}
