'use client';

import { useCallback, useState } from 'react';
import type { ErrorRecord } from '@/core/errors/app-error';
import type { ActionResult } from './action-result';
import { sayUnreached } from './server-unreached';

/** Does something on the server, says what went wrong, and has what is shown as it is then. */
export type Act = <T>(work: () => Promise<ActionResult<T>>, done?: (value: T) => void) => Promise<void>;

type Track = <T>(work: Promise<T>) => Promise<T>;
const untracked: Track = (work) => work;

/**
 * Work on the server, one piece after another. Nobody waits for the data that are fetched again behind it: what comes late must
 * not keep anybody from going on.
 *
 * @param changed has what is shown fetched again
 * @param track what is told of work that is under way
 */
export function useAct(changed: () => unknown, track: Track = untracked) {
  const [isBusy, setIsBusy] = useState(false);
  const [error, setError] = useState<ErrorRecord>();
  const act = useCallback<Act>(
    async (work, done) => {
      setIsBusy(true);
      try {
        const result = await track(work().catch(sayUnreached));
        setError(result.ok ? undefined : result.error);
        if (result.ok) done?.(result.value);
      } finally {
        setIsBusy(false);
        changed();
      }
    },
    [changed, track],
  );
  return { act, isBusy, error, clearError: () => setError(undefined) };
}
