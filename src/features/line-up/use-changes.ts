'use client';

import { useMemo, useState } from 'react';
import type { LineUpFields } from '@/core/lineup/line-up';
import type { LineUpView } from '@/server/line-ups/line-ups';

interface Change {
  fields: Partial<LineUpFields>;
  /** Changes of this line-up that the server has not answered yet. */
  underWay: number;
  /** When the last was answered, in ms since 1970. */
  answeredAtMs: number;
}

/**
 * Line-ups as they were set here, shown at once: whoever goes on goes on from what was chosen. What was fetched before a change had
 * been answered does not know it, and is not shown in its place.
 *
 * @param fetchedAtMs when the line-ups were fetched; whatever is under way then is fetched anew once a change was answered
 */
export function useChanges(lineUps: readonly LineUpView[], fetchedAtMs: number) {
  const [changes, setChanges] = useState<ReadonlyMap<string, Change>>(new Map());
  const shown = useMemo(
    () =>
      lineUps.map((lineUp) => {
        const change = changes.get(lineUp.id);
        return change && isNewer(change, fetchedAtMs) ? { ...lineUp, ...change.fields } : lineUp;
      }),
    [lineUps, changes, fetchedAtMs],
  );
  const begin = (id: string, fields: Partial<LineUpFields>) =>
    setChanges((before) => {
      const known = before.get(id);
      const earlier = known && isNewer(known, fetchedAtMs) ? known.fields : {};
      const underWay = (known?.underWay ?? 0) + 1;
      return new Map(before).set(id, { fields: { ...earlier, ...fields }, underWay, answeredAtMs: 0 });
    });
  /** What was refused is shown as it is. */
  const answered = (id: string, isDone: boolean) =>
    setChanges((before) => {
      const known = before.get(id);
      if (!known) return before;
      const answeredAtMs = isDone ? Date.now() : 0;
      return new Map(before).set(id, { ...known, underWay: known.underWay - 1, answeredAtMs });
    });
  return { shown, begin, answered };
}

/** Whether a change is not yet in what was fetched. */
function isNewer({ underWay, answeredAtMs }: Change, fetchedAtMs: number): boolean {
  return underWay > 0 || fetchedAtMs <= answeredAtMs;
}
