'use client';

import { useEffect, useState } from 'react';
import type { LimitedReadings } from '@/core/treatment/limited-forecast';
import type { LevelOptions } from '@/core/treatment/limited-solver';
import type { Limit } from '@/core/treatment/steps/limit';
import type { Preparation } from '@/core/treatment/treatment';
import { fetchArrays, programmeAddress, type SourceKey } from './use-trace';

/** Asks that come close together, as from a drag, are one. */
const SETTLE_MS = 120;

/** What is asked of the server, and what has come: undefined while it is on its way, 'failed' where it can't be had. */
function useAsked<T>(
  address: string | null,
  delayMs: number,
  fetchIt: (address: string, signal: AbortSignal) => Promise<T>,
): { address: string; value: T | 'failed' } | undefined {
  const [loaded, setLoaded] = useState<{ address: string; value: T | 'failed' }>();
  useEffect(() => {
    if (address === null) return;
    const abort = new AbortController();
    const timer = setTimeout(() => {
      fetchIt(address, abort.signal)
        .catch((): 'failed' => 'failed')
        .then((value) => {
          if (!abort.signal.aborted) setLoaded({ address, value });
        });
    }, delayMs);
    return () => {
      clearTimeout(timer);
      abort.abort();
    };
  }, [address, delayMs, fetchIt]);
  return loaded;
}

async function fetchAnswers(address: string, signal: AbortSignal): Promise<LevelOptions | null> {
  const response = await fetch(address, { signal });
  if (!response.ok) throw new Error(`${address}: ${response.status}`);
  return ((await response.json()) as { options: LevelOptions | null }).options;
}

/** What a limiter leaves of a programme, and what it does along time: as LimitedCurves, in f32. */
interface LimitedProgramme extends LimitedReadings {
  weightedPower: Float32Array;
  reductionsDb: Float32Array;
}

async function fetchLimited(address: string, signal: AbortSignal): Promise<LimitedProgramme> {
  const { meta, arrays } = await fetchArrays<LimitedReadings>(address, signal);
  return {
    ...meta,
    weightedPower: arrays.weightedPower as Float32Array,
    reductionsDb: arrays.reductionsDb as Float32Array,
  };
}

/** What can be done for a programme where the ceiling stops its gain; undefined until that is known. */
export function useLevelOptions(
  source: SourceKey,
  preparation: Preparation,
  specId: string,
  isAsked: boolean,
): LevelOptions | null | 'failed' | undefined {
  const asked = { preparation: JSON.stringify(preparation), spec: specId };
  const address = isAsked ? programmeAddress(source, 'limiter', asked) : null;
  const loaded = useAsked(address, 0, fetchAnswers);
  return loaded?.address === address ? loaded?.value : undefined;
}

export interface LimitedNow {
  /** The gain that the readings speak of, which may still be the one before. */
  gainDb: number;
  limited: LimitedProgramme;
  /** They speak of what is set. */
  isUpToDate: boolean;
}

/** What a programme reads after a gain and a limiter: the last that has come, until the next has. */
export function useLimited(
  source: SourceKey,
  preparation: Preparation,
  limiting: { gainDb: number; limit: Limit } | null,
): LimitedNow | 'failed' | undefined {
  const asked = limiting && {
    preparation: JSON.stringify(preparation),
    gainDb: limiting.gainDb,
    limit: JSON.stringify(limiting.limit),
  };
  const address = asked && programmeAddress(source, 'limiter', asked);
  const loaded = useAsked(address, SETTLE_MS, fetchLimited);
  if (!limiting || !loaded) return undefined;
  if (loaded.value === 'failed') return loaded.address === address ? 'failed' : undefined;
  const gainDb = Number(new URLSearchParams(loaded.address.slice(loaded.address.indexOf('?'))).get('gainDb'));
  return { gainDb, limited: loaded.value, isUpToDate: loaded.address === address };
}
