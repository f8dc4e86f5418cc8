'use client';

import { useRouter } from 'next/navigation';
import { useEffect, useState, useSyncExternalStore } from 'react';
import type { LinesEdited, LineTold, LiveLine } from '@/server/lines/live-lines';
import { type LineShown, LineStore } from './line-store';

/** Stores of the lines that are shown, which are told whatever the server tells. What is set of lines anew makes the page anew. */
export function useLineStores(lines: readonly { live: LiveLine }[], lineId?: string): ReadonlyMap<string, LineStore> {
  const [stores] = useState(() => new Map<string, LineStore>());
  for (const { live } of lines) {
    if (!stores.has(live.lineId)) stores.set(live.lineId, new LineStore(live));
  }
  const router = useRouter();
  useEffect(() => {
    const source = new EventSource(`/api/live/stream${lineId === undefined ? '' : `?line=${lineId}`}`);
    source.onmessage = ({ data }) => {
      const told = JSON.parse(data) as LineTold | LinesEdited;
      if (told.kind === 'edited') router.refresh();
      else stores.get('live' in told ? told.live.lineId : told.lineId)?.take(told);
    };
    return () => source.close();
  }, [stores, lineId, router]);
  return stores;
}

export function useLine(store: LineStore): LineShown {
  return useSyncExternalStore(store.subscribe, store.get, store.get);
}
