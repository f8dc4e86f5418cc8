'use client';

import type { Act } from '@/features/common/use-act';
import { useUndo } from '@/features/common/use-undo';
import { settingsOfSheet, type Target, takeBack } from './actions';
import { undoOf } from './sheet-change';

/** Changes of a sheet's settings that can be taken back, one by one. */
export function useEdit(target: Target, act: Act): { edit: Act; canUndo: boolean; undo: () => void } {
  const { canUndo, undo, remember } = useUndo();
  const edit: Act = (work, done) =>
    act(async () => {
      const before = await settingsOfSheet(target);
      if (!before.ok) return before;
      const result = await work();
      // What was done in part, before something went wrong, can be taken back too.
      const after = await settingsOfSheet(target);
      const change = after.ok ? undoOf(before.value, after.value) : undefined;
      if (change) remember(() => void act(() => takeBack(target.jobId, change)));
      return result;
    }, done);
  return { edit, canUndo, undo };
}
