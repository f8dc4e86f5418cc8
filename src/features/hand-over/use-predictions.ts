import { useQueries, useQueryClient } from '@tanstack/react-query';
import type { ErrorRecord } from '@/core/errors/app-error';
import { refreshSheet } from '@/features/common/data/changes';
import { fetchAnswer, recordOf } from '@/features/common/data/fetch-json';
import { useJobId } from '@/features/common/job';
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

/** Forecasts are worked out one after another: each may look through a whole programme. */
let last: Promise<unknown> = Promise.resolve();

function inTurn<T>(signal: AbortSignal, work: () => Promise<T>): Promise<T> {
  const result = last.then(() => {
    signal.throwIfAborted();
    return work();
  });
  last = result.catch(() => undefined);
  return result;
}

/** A row that has no forecast yet, though it was worked out, is asked for again after so long. */
const ASKED_AGAIN_MS = 2000;

/** Has the rows that nothing is known of predicted, one after another; each is fetched again as its forecast comes. */
export function usePredictions(rows: readonly RowView[]): PredictionFailures {
  const client = useQueryClient();
  const jobId = useJobId();
  const wanting = rows.filter((row) => !row.prediction && !row.problem);
  const results = useQueries({
    queries: wanting.map((row) => ({
      queryKey: ['forecast', keyOf(row)],
      queryFn: ({ signal }: { signal: AbortSignal }) =>
        inTurn(signal, async () => {
          await fetchAnswer(`/api/rows/${row.id}/prediction`, signal);
          await refreshSheet(client, jobId, row.programmeId);
          return null;
        }),
      // What a row will be is kept with the row: asked for again, it is asked anew.
      gcTime: 0,
      staleTime: 0,
      // What was set while it was worked out has made it another: it is worked out once more.
      refetchInterval: ({ state }: { state: { status: string } }) =>
        state.status === 'success' ? ASKED_AGAIN_MS : false,
    })),
  });
  return new Map(
    wanting.flatMap((row, i): [string, ErrorRecord][] => {
      const error = results[i]?.error;
      return error ? [[keyOf(row), recordOf(error)]] : [];
    }),
  );
}
