'use client';

import { useCallback, useEffect, useRef, useState } from 'react';
import type { ErrorRecord } from '@/core/errors/app-error';
import type { Treatment } from '@/core/treatment/treatment';
import type { ActionResult } from '@/features/common/action-result';
import { useChanged } from '@/features/common/data/use-changed';
import { useSaveStatus } from '@/features/common/save-status';
import { saveSteps, stepEdit } from '@/features/common/treatment-actions';
import type { TreatmentState } from '@/server/treatments/treatments';

/** Commits that come close together, as from a held key, are saved once. */
const SETTLE_MS = 300;

/** What changes in a treatment: some of its steps. */
export type Steps = Partial<Treatment>;

/**
 * The treatment of one programme: changed at once on screen, saved when it has settled, and in any case before the desk is
 * left. Saves are sent one after another, so that what was set last is what stays.
 */
export function useTreatment(programmeId: string, saved: TreatmentState) {
  const changed = useChanged();
  const { track } = useSaveStatus();
  const [treatment, setTreatment] = useState(saved.treatment);
  const [state, setState] = useState(saved);
  const [error, setError] = useState<ErrorRecord>();
  const pending = useRef<{ steps: Steps; timer: ReturnType<typeof setTimeout>; settle: () => void }>(undefined);
  const lastSave = useRef<Promise<unknown>>(Promise.resolve());
  /** Where this desk stands among the edits. */
  const editId = useRef(saved.editId);

  const flush = useCallback(() => {
    if (!pending.current) return;
    clearTimeout(pending.current.timer);
    pending.current.settle();
  }, []);

  const take = useCallback(
    (result: ActionResult<TreatmentState>) => {
      setError(result.ok ? undefined : result.error);
      if (!result.ok) throw new Error(result.error.happened);
      setState(result.value);
      editId.current = result.value.editId;
      // The list beside shows the same programme at a glance.
      void changed();
      return result.value;
    },
    [changed],
  );

  const change = useCallback((steps: Steps) => setTreatment((before) => ({ ...before, ...steps })), []);

  const commit = useCallback(
    (steps: Steps) => {
      change(steps);
      if (pending.current) {
        pending.current.steps = { ...pending.current.steps, ...steps };
        clearTimeout(pending.current.timer);
        pending.current.timer = setTimeout(flush, SETTLE_MS);
        return;
      }
      // Counts as unsaved from this moment on, not only once it is on its way.
      const settled = new Promise<void>((settle) => {
        pending.current = { steps, timer: setTimeout(flush, SETTLE_MS), settle };
      });
      const earlier = lastSave.current;
      const save = async () => {
        await settled;
        const latest = pending.current?.steps ?? steps;
        pending.current = undefined;
        await earlier;
        take(await saveSteps(programmeId, latest, editId.current));
      };
      lastSave.current = track(save()).catch(() => undefined);
    },
    [programmeId, track, flush, take, change],
  );

  const step = useCallback(
    (direction: 'undo' | 'redo') => {
      flush();
      const earlier = lastSave.current;
      const go = async () => {
        await earlier;
        setTreatment(take(await stepEdit(programmeId, direction, editId.current)).treatment);
      };
      lastSave.current = track(go()).catch(() => undefined);
    },
    [programmeId, track, flush, take],
  );

  useEffect(() => flush, [flush]);
  return { treatment, state, error, change, commit, step, flush };
}
