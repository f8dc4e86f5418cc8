'use client';

import { useRouter } from 'next/navigation';
import { useEffect, useState } from 'react';
import type { ErrorRecord } from '@/core/errors/app-error';
import type { RowView } from '@/server/deliveries/sheet';

/** What keeps rows from being predicted, by row and what it asks for. */
export type PredictionFailures = ReadonlyMap<string, ErrorRecord>;

/** A row as it is asked for now: one that was changed is predicted anew. */
export const keyOf = ({ id, format, levelMode, spec, hasOwnEdges }: RowView): string =>
  JSON.stringify([id, format, levelMode, spec.version, hasOwnEdges]);

/** Whether a row's forecast is still to come. */
export function isPending(row: RowView, failures: PredictionFailures): boolean {
  return !row.prediction && !row.problem && !failures.has(keyOf(row));
}

/** Has the rows that nothing is known of predicted, one after another; the page's data are fetched again as they come. */
export function usePredictions(rows: readonly RowView[]): PredictionFailures {
  const router = useRouter();
  const [failures, setFailures] = useState<PredictionFailures>(new Map());
  const next = rows.find((row) => isPending(row, failures));
  const nextKey = next && keyOf(next);
  const nextId = next?.id;
  useEffect(() => {
    if (nextKey === undefined || nextId === undefined) return;
    const ending = new AbortController();
    const fail = (error: ErrorRecord) => setFailures((known) => new Map(known).set(nextKey, error));
    void (async () => {
      try {
        const response = await fetch(`/api/rows/${nextId}/prediction`, { signal: ending.signal });
        if (response.ok) router.refresh();
        else fail(((await response.json()) as { error: ErrorRecord }).error);
      } catch {
        if (!ending.signal.aborted) fail(UNREACHED);
      }
    })();
    return () => ending.abort();
  }, [nextKey, nextId, router]);
  return failures;
}

const UNREACHED: ErrorRecord = {
  code: 'unexpected',
  happened: 'What this row will be could not be asked for.',
  safe: '',
  todo: 'Reload the page.',
};
