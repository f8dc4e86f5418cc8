'use client';

import { useCallback, useEffect, useRef, useState } from 'react';
import type { ErrorRecord } from '@/core/errors/app-error';
import { useSaveStatus } from '@/features/common/save-status';
import { saveGain } from './actions';

/** Commits that come close together, as from a held key, are saved once. */
const SETTLE_MS = 300;

/**
 * The gain of one programme: changed at once on screen, saved when it has settled, and in any case before the desk
 * is left. Saves are sent one after another, so that the last one set is the one that stays.
 */
export function useGain(programmeId: string, saved: { gainDb: number; version: number }) {
  const { track } = useSaveStatus();
  const [gainDb, setGainDb] = useState(saved.gainDb);
  const [version, setVersion] = useState(saved.version);
  const [error, setError] = useState<ErrorRecord>();
  const pending = useRef<{ gainDb: number; timer: ReturnType<typeof setTimeout> }>(undefined);
  const lastSave = useRef<Promise<unknown>>(Promise.resolve());

  const flush = useCallback(() => {
    if (!pending.current) return;
    const { gainDb: settled, timer } = pending.current;
    clearTimeout(timer);
    pending.current = undefined;
    const save = async () => {
      const result = await saveGain(programmeId, settled);
      if (!result.ok) {
        setError(result.error);
        throw new Error(result.error.happened);
      }
      setError(undefined);
      setVersion(result.value);
    };
    lastSave.current = track(lastSave.current.then(save)).catch(() => undefined);
  }, [programmeId, track]);

  const commit = useCallback(
    (value: number) => {
      setGainDb(value);
      if (pending.current) clearTimeout(pending.current.timer);
      pending.current = { gainDb: value, timer: setTimeout(flush, SETTLE_MS) };
    },
    [flush],
  );

  useEffect(() => flush, [flush]);
  return { gainDb, version, error, change: setGainDb, commit };
}
