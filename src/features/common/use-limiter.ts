'use client';

import { useEffect, useState } from 'react';
import type { LimitedReadings } from '@/core/treatment/limited-forecast';
import type { Answers } from '@/core/treatment/limited-solver';

/** Asks that come close together, as from a drag, are one. */
const SETTLE_MS = 120;

/** What is asked of the server, and what has come: undefined while it is on its way, 'failed' where it can't be had. */
function useAsked<T>(address: string | null, delayMs: number): { key: string; value: T | 'failed' } | undefined {
  const [loaded, setLoaded] = useState<{ key: string; value: T | 'failed' }>();
  useEffect(() => {
    if (address === null) return;
    const abort = new AbortController();
    const timer = setTimeout(() => {
      fetchJson<T>(address, abort.signal)
        .catch((): 'failed' => 'failed')
        .then((value) => {
          if (!abort.signal.aborted) setLoaded({ key: address, value });
        });
    }, delayMs);
    return () => {
      clearTimeout(timer);
      abort.abort();
    };
  }, [address, delayMs]);
  return loaded;
}

async function fetchJson<T>(address: string, signal: AbortSignal): Promise<T> {
  const response = await fetch(address, { signal });
  if (!response.ok) throw new Error(`${address}: ${response.status}`);
  return response.json() as Promise<T>;
}

/**
 * What can be done for a programme where the ceiling stops its gain; undefined until that is known.
 *
 * @param source changes when the programme is measured anew
 */
export function useAnswers(
  programmeId: string,
  specId: string,
  source: string,
  isAsked: boolean,
): Answers | null | 'failed' | undefined {
  const address = isAsked ? `/api/programmes/${programmeId}/limiter?${new URLSearchParams({ spec: specId })}` : null;
  const loaded = useAsked<{ answers: Answers | null }>(address && `${address}#${source}`, 0);
  if (loaded?.key !== `${address}#${source}`) return undefined;
  return loaded.value === 'failed' ? 'failed' : loaded.value.answers;
}

export interface LimitedNow {
  /** The gain that the readings speak of, which may still be the one before. */
  gainDb: number;
  ceilingDbtp: number;
  limited: LimitedReadings;
  /** They speak of the gain that is set. */
  isSettled: boolean;
}

/** What a programme reads after a gain and a limiter: the last that has come, until the next has. */
export function useLimited(
  programmeId: string,
  source: string,
  limiting: { gainDb: number; ceilingDbtp: number } | null,
): LimitedNow | 'failed' | undefined {
  const query = limiting && `gainDb=${limiting.gainDb}&ceilingDbtp=${limiting.ceilingDbtp}`;
  const address = query && `/api/programmes/${programmeId}/limiter?${query}#${source}`;
  const loaded = useAsked<{ limited: LimitedReadings }>(address, SETTLE_MS);
  if (!limiting || !loaded) return undefined;
  if (loaded.value === 'failed') return loaded.key === address ? 'failed' : undefined;
  const of = new URLSearchParams(loaded.key.slice(loaded.key.indexOf('?') + 1, loaded.key.indexOf('#')));
  const [gainDb, ceilingDbtp] = [Number(of.get('gainDb')), Number(of.get('ceilingDbtp'))];
  return { gainDb, ceilingDbtp, limited: loaded.value.limited, isSettled: loaded.key === address };
}
