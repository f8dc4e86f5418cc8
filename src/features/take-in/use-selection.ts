'use client';

import { useCallback, useRef, useState } from 'react';
import type { ErrorRecord } from '@/core/errors/app-error';
import { sayUnreached } from '@/features/common/server-unreached';
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
  /** Why what is listed could not be asked for. */
  error: ErrorRecord | undefined;
  clearError: () => void;
}

type Change = (ids: Set<string>) => void;

/** Programmes of the list that are chosen, wherever they stand in it and whether they are drawn or not. */
export function useSelection(jobId: string, specId: string, listing: TakeInListing): Selection {
  const [ids, setIds] = useState<ReadonlySet<string>>(new Set());
  const [allOf, setAllOf] = useState<TakeInListing>();
  const [error, setError] = useState<ErrorRecord>();
  const last = useRef<string>(undefined);
  // What is chosen while the server is asked for all that is listed: it is done again on top of the answer, so that nothing is lost.
  const meanwhile = useRef<Change[]>([]);
  const put = useCallback((change: Change) => {
    meanwhile.current.push(change);
    setAllOf(undefined);
    setIds((before) => {
      const next = new Set(before);
      change(next);
      return next;
    });
  }, []);
  const listed = useCallback(async () => {
    const result = await idsInOrder(jobId, specId, listing).catch(sayUnreached);
    setError(result.ok ? undefined : result.error);
    return result.ok ? result.value : undefined;
  }, [jobId, specId, listing]);
  const toggle = useCallback(
    async (id: string, isRange: boolean) => {
      const from = last.current;
      last.current = id;
      if (!isRange || from === undefined) {
        const isChosen = ids.has(id);
        put((next) => void (isChosen ? next.delete(id) : next.add(id)));
        return;
      }
      const known = await listed();
      if (!known) return;
      const [first, end] = [known.indexOf(from), known.indexOf(id)].sort((a, b) => a - b) as [number, number];
      put((next) => {
        for (const each of known.slice(Math.max(0, first), end + 1)) next.add(each);
      });
    },
    [ids, listed, put],
  );
  const add = useCallback(
    (id: string) => {
      last.current = id;
      put((next) => void next.add(id));
    },
    [put],
  );
  const all = useCallback(async () => {
    const changes: Change[] = [];
    meanwhile.current = changes;
    const known = await listed();
    if (!known || meanwhile.current !== changes) return;
    const next = new Set(known);
    for (const change of changes) change(next);
    setIds(next);
    if (changes.length === 0) setAllOf(listing);
  }, [listed, listing]);
  const clear = useCallback(() => put((next) => next.clear()), [put]);
  return {
    ...{ ids, toggle, add, all, clear, error },
    isAll: allOf === listing && ids.size > 0,
    clearError: () => setError(undefined),
  };
}
