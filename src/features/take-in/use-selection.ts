'use client';

import { useCallback, useRef, useState } from 'react';
import type { TakeInListing } from '@/server/jobs/take-in-list';
import { idsInOrder } from './actions';

export interface Selection {
  ids: ReadonlySet<string>;
  /** @param isRange with everything between it and the one that was chosen last */
  toggle: (id: string, isRange: boolean) => Promise<void>;
  add: (id: string) => void;
  /** Everything that is listed, and nothing else, was chosen at once. */
  isAll: boolean;
  all: () => Promise<void>;
  clear: () => void;
}

/** Programmes of the list that are chosen, wherever they stand in it and whether they are drawn or not. */
export function useSelection(jobId: string, specId: string, listing: TakeInListing): Selection {
  const [ids, setIds] = useState<ReadonlySet<string>>(new Set());
  const [allOf, setAllOf] = useState<TakeInListing>();
  const last = useRef<string>(undefined);
  const listed = useCallback(async () => {
    const result = await idsInOrder(jobId, specId, listing);
    return result.ok ? result.value : [];
  }, [jobId, specId, listing]);
  const toggle = useCallback(
    async (id: string, isRange: boolean) => {
      const from = last.current;
      last.current = id;
      setAllOf(undefined);
      if (!isRange || from === undefined) {
        setIds((before) => {
          const next = new Set(before);
          if (!next.delete(id)) next.add(id);
          return next;
        });
        return;
      }
      const known = await listed();
      const [first, end] = [known.indexOf(from), known.indexOf(id)].sort((a, b) => a - b) as [number, number];
      setIds((before) => new Set([...before, ...known.slice(Math.max(0, first), end + 1)]));
    },
    [listed],
  );
  const add = useCallback((id: string) => {
    last.current = id;
    setAllOf(undefined);
    setIds((before) => new Set([...before, id]));
  }, []);
  const all = useCallback(async () => {
    setIds(new Set(await listed()));
    setAllOf(listing);
  }, [listed, listing]);
  const clear = useCallback(() => {
    setIds(new Set());
    setAllOf(undefined);
  }, []);
  return { ids, isAll: allOf === listing && ids.size > 0, toggle, add, all, clear };
}
