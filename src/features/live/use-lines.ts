'use client';

import { useEffect, useState, useSyncExternalStore } from 'react';
import type { LineTold, LiveLine } from '@/server/lines/live-lines';
import { type LineShown, LineStore } from './line-store';

/** Stores of the lines that are shown, which are told whatever the server tells. */
export function useLineStores(lines: readonly { live: LiveLine }[], lineId?: string): ReadonlyMap<string, LineStore> {
  const [stores] = useState(() => new Map<string, LineStore>());
  for (const { live } of lines) {
    if (!stores.has(live.lineId)) stores.set(live.lineId, new LineStore(live));
  }
  useEffect(() => {
    const source = new EventSource(`/api/lines/live${lineId === undefined ? '' : `?line=${lineId}`}`);
    source.onmessage = ({ data }) => {
      const told = JSON.parse(data) as LineTold;
      stores.get('live' in told ? told.live.lineId : told.lineId)?.take(told);
    };
    return () => source.close();
  }, [stores, lineId]);
  return stores;
}

export function useLine(store: LineStore): LineShown {
  return useSyncExternalStore(store.subscribe, store.get, store.get);
}
