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
  const pending = useRef<{ gainDb: number; timer: ReturnType<typeof setTimeout>; settle: () => void }>(undefined);
  const lastSave = useRef<Promise<unknown>>(Promise.resolve());

  const flush = useCallback(() => {
    if (!pending.current) return;
    clearTimeout(pending.current.timer);
    pending.current.settle();
  }, []);

  const commit = useCallback(
    (value: number) => {
      setGainDb(value);
      if (pending.current) {
        pending.current.gainDb = value;
        clearTimeout(pending.current.timer);
        pending.current.timer = setTimeout(flush, SETTLE_MS);
        return;
      }
      // Counts as unsaved from this moment on, not only once it is on its way.
      const settled = new Promise<void>((settle) => {
        pending.current = { gainDb: value, timer: setTimeout(flush, SETTLE_MS), settle };
      });
      const earlier = lastSave.current;
      const save = async () => {
        await settled;
        const latest = pending.current?.gainDb ?? value;
        pending.current = undefined;
        await earlier;
        const result = await saveGain(programmeId, latest);
        if (!result.ok) {
          setError(result.error);
          throw new Error(result.error.happened);
        }
        setError(undefined);
        setVersion(result.value);
      };
      lastSave.current = track(save()).catch(() => undefined);
    },
    [programmeId, track, flush],
  );

  useEffect(() => flush, [flush]);
  return { gainDb, version, error, change: setGainDb, commit };
}
