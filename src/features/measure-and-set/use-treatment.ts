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
 * left. Saves are sent one after another, so that what was set last is what stays. What is set elsewhere meanwhile is shown as soon
 * as nothing of this desk is on its way; what was set here upon something older is refused, and said to be.
 */
export function useTreatment(programmeId: string, saved: TreatmentState) {
  const changed = useChanged();
  const { track } = useSaveStatus();
  const [treatment, setTreatment] = useState(saved.treatment);
  const [state, setState] = useState(saved);
  const [error, setError] = useState<ErrorRecord>();
  const pending = useRef<{ steps: Steps; timer: ReturnType<typeof setTimeout>; settle: () => void }>(undefined);
  /** Whether what was set last is saved. */
  const lastSave = useRef<Promise<boolean>>(Promise.resolve(true));
  /** Where this desk stands among the edits. */
  const editId = useRef(saved.editId);
  const [saves, setSaves] = useState(0);
  /** What came last from outside, and what of it is shown here, or is older than what was saved from here. */
  const come = useRef(saved);
  const shown = useRef(saved);

  useEffect(() => {
    come.current = saved;
    if (saves > 0 || shown.current === saved) return;
    shown.current = saved;
    setState(saved);
    if (saved.editId === editId.current) return;
    editId.current = saved.editId;
    setTreatment(saved.treatment);
  }, [saved, saves]);

  const flush = useCallback(() => {
    if (!pending.current) return;
    clearTimeout(pending.current.timer);
    pending.current.settle();
  }, []);

  const take = useCallback(
    (result: ActionResult<TreatmentState>) => {
      setError(result.ok ? undefined : result.error);
      // The list beside shows the same programme at a glance; and what was refused for what is set elsewhere is seen to be.
      void changed();
      if (!result.ok) throw new Error(result.error.happened);
      setState(result.value);
      editId.current = result.value.editId;
      shown.current = come.current;
      return result.value;
    },
    [changed],
  );

  const change = useCallback((steps: Steps) => setTreatment((before) => ({ ...before, ...steps })), []);

  const inOrder = useCallback(
    (save: () => Promise<void>) => {
      setSaves((under) => under + 1);
      lastSave.current = track(save())
        .then(
          () => true,
          () => false,
        )
        .finally(() => setSaves((under) => under - 1));
    },
    [track],
  );

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
      inOrder(async () => {
        await settled;
        const latest = pending.current?.steps ?? steps;
        pending.current = undefined;
        await earlier;
        take(await saveSteps(programmeId, latest, editId.current));
      });
    },
    [programmeId, inOrder, flush, take, change],
  );

  const step = useCallback(
    (direction: 'undo' | 'redo') => {
      flush();
      const earlier = lastSave.current;
      inOrder(async () => {
        await earlier;
        setTreatment(take(await stepEdit(programmeId, direction, editId.current)).treatment);
      });
    },
    [programmeId, inOrder, flush, take],
  );

  /** Saves what is set, and tells whether it was. */
  const settle = useCallback(() => {
    flush();
    return lastSave.current;
  }, [flush]);

  useEffect(() => flush, [flush]);
  return { treatment, state, error, change, commit, step, flush, settle };
}
