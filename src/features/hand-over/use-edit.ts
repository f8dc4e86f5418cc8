'use client';

import { useCallback } from 'react';
import type { Act } from '@/features/common/use-act';
import { useUndo } from '@/features/common/use-undo';
import { settingsOfSheet, type Target, takeBack } from './actions';
import { undoOf } from './sheet-change';

/** Changes of a sheet's settings that can be taken back, one by one. */
export function useEdit({ jobId, programmeId }: Target, act: Act): { edit: Act; canUndo: boolean; undo: () => void } {
  const { canUndo, undo, remember } = useUndo();
  const edit = useCallback<Act>(
    (work, done) =>
      act(async () => {
        const target = { jobId, programmeId };
        const before = await settingsOfSheet(target);
        if (!before.ok) return before;
        const result = await work();
        // What was done in part, before something went wrong, can be taken back too.
        const after = await settingsOfSheet(target);
        const change = after.ok ? undoOf(before.value, after.value) : undefined;
        if (change) remember(() => void act(() => takeBack(jobId, change)));
        return result;
      }, done),
    [jobId, programmeId, act, remember],
  );
  return { edit, canUndo, undo };
}
