import { useQuery } from '@tanstack/react-query';
import { fetchJson } from '@/features/common/data/fetch-json';
import type { LogStep } from '@/server/lines/line-log';

/**
 * The log of a line up to now, in steps.
 *
 * @param againMs how often it is fetched anew; null for once
 */
export function useLog(
  lineId: string,
  {
    seconds,
    stepSeconds,
    isOn = true,
    againMs = null,
  }: { seconds: number; stepSeconds: number; isOn?: boolean; againMs?: number | null },
) {
  return useQuery({
    queryKey: ['line', lineId, 'log', seconds, stepSeconds],
    queryFn: async ({ signal }) => {
      const to = Math.ceil(Date.now() / 1000);
      const address = `/api/live/${lineId}/log?from=${to - seconds}&to=${to}&step=${stepSeconds}`;
      return (await fetchJson<{ steps: LogStep[] }>(address, signal)).steps;
    },
    enabled: isOn,
    // What came while it was not looked at.
    staleTime: 0,
    refetchInterval: againMs ?? false,
  });
}
