'use client';

import { keepPreviousData, useQuery } from '@tanstack/react-query';
import type { LimitedReadings } from '@/core/treatment/limited-forecast';
import type { LevelOptions } from '@/core/treatment/limited-solver';
import type { Limit } from '@/core/treatment/steps/limit';
import type { Preparation } from '@/core/treatment/treatment';
import { fetchJson } from './data/fetch-json';
import { useSettled } from './use-settled';
import { bundleQuery, fetchArrays, programmeAddress, type SourceKey } from './use-trace';

async function fetchOptions(address: string, signal: AbortSignal): Promise<LevelOptions | null> {
  return (await fetchJson<{ options: LevelOptions | null }>(address, signal)).options;
}

/** What a limiter leaves of a programme, and what it does along time: as LimitedCurves, in f32. */
interface LimitedProgramme extends LimitedReadings {
  weightedPower: Float32Array;
  reductionsDb: Float32Array;
  /** What was asked, and the gain in it. */
  address: string;
  gainDb: number;
}

async function fetchLimited(address: string, signal: AbortSignal): Promise<LimitedProgramme> {
  const { meta, arrays } = await fetchArrays<LimitedReadings>(address, signal);
  return {
    ...meta,
    weightedPower: arrays.weightedPower as Float32Array,
    reductionsDb: arrays.reductionsDb as Float32Array,
    address,
    gainDb: Number(new URLSearchParams(address.slice(address.indexOf('?'))).get('gainDb')),
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
  const { data, isError } = useQuery(bundleQuery(address, fetchOptions));
  return isError ? 'failed' : data;
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
  const settled = useSettled(address);
  const { data, isError } = useQuery({
    ...bundleQuery(settled, fetchLimited),
    placeholderData: keepPreviousData,
  });
  if (!limiting) return undefined;
  if (isError && settled === address) return 'failed';
  return data && { gainDb: data.gainDb, limited: data, isUpToDate: data.address === address };
}
