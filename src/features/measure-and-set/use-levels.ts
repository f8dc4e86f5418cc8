'use client';

import { useRouter } from 'next/navigation';
import { useCallback, useEffect, useRef, useState } from 'react';
import type { ErrorRecord } from '@/core/errors/app-error';
import type { Levels } from '@/core/treatment/treatment';
import { saveLevels } from '@/features/common/levels-actions';
import { useSaveStatus } from '@/features/common/save-status';

/** Commits that come close together, as from a held key, are saved once. */
const SETTLE_MS = 300;

/**
 * The levels of one programme: changed at once on screen, saved when they have settled, and in any case before the desk
 * is left. Saves are sent one after another, so that the last ones set are those that stay.
 */
export function useLevels(programmeId: string, saved: Levels & { version: number }) {
  const router = useRouter();
  const { track } = useSaveStatus();
  const [levels, setLevels] = useState<Levels>({ gainDb: saved.gainDb, limit: saved.limit });
  const [version, setVersion] = useState(saved.version);
  const [error, setError] = useState<ErrorRecord>();
  const pending = useRef<{ levels: Levels; timer: ReturnType<typeof setTimeout>; settle: () => void }>(undefined);
  const lastSave = useRef<Promise<unknown>>(Promise.resolve());

  const flush = useCallback(() => {
    if (!pending.current) return;
    clearTimeout(pending.current.timer);
    pending.current.settle();
  }, []);

  const commit = useCallback(
    (value: Levels) => {
      setLevels(value);
      if (pending.current) {
        pending.current.levels = value;
        clearTimeout(pending.current.timer);
        pending.current.timer = setTimeout(flush, SETTLE_MS);
        return;
      }
      // Counts as unsaved from this moment on, not only once it is on its way.
      const settled = new Promise<void>((settle) => {
        pending.current = { levels: value, timer: setTimeout(flush, SETTLE_MS), settle };
      });
      const earlier = lastSave.current;
      const save = async () => {
        await settled;
        const latest = pending.current?.levels ?? value;
        pending.current = undefined;
        await earlier;
        const result = await saveLevels(programmeId, latest);
        if (!result.ok) {
          setError(result.error);
          throw new Error(result.error.happened);
        }
        setError(undefined);
        setVersion(result.value);
        // The list beside shows the same programme at a glance.
        router.refresh();
      };
      lastSave.current = track(save()).catch(() => undefined);
    },
    [programmeId, track, flush, router],
  );

  useEffect(() => flush, [flush]);
  return { levels, version, error, change: setLevels, commit };
}
