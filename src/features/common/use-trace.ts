'use client';

import { queryOptions, skipToken, useQuery } from '@tanstack/react-query';
import { ENGINE_VERSION } from '@/core/loudness/readings';
import { loudnessCurve, MOMENTARY_BINS, SHORT_TERM_BINS } from '@/core/loudness/series';
import type { Waveform } from '@/core/loudness/waveform';
import type { PeakSeries } from '@/core/peak/overs';
import type { Preparation } from '@/core/treatment/treatment';
import { decodeArrays } from '@/formats/array-bundle';
import type { TraceMeta } from '@/server/measure/trace';
import { fetchAnswer } from './data/fetch-json';

export interface Trace {
  meta: TraceMeta;
  /** Of every 100 ms. */
  weightedPower: Float32Array;
  /** In LUFS at the end of every 100 ms. */
  shortTerm: Float32Array;
  momentary: Float32Array;
  peaks: PeakSeries;
  /** Of each channel, the whole of it in so many columns. */
  waveforms: Waveform[];
}

/** Columns that the waveform is fetched in: finer than most screens, so that a resize fetches nothing. */
const COLUMNS = 1600;
/** What is looked at no more is there again at once for so long. */
const KEPT_MS = 60_000;

/** A source, by what its readings depend on. */
export interface SourceKey {
  programmeId: string;
  sha256: string;
  layout: string;
}

/**
 * Fetches what is drawn of a programme as it is prepared; undefined while it is on its way, 'failed' where it can't be
 * had. With null nothing is asked for.
 */
export function useTrace(source: SourceKey, preparation: Preparation | null): Trace | 'failed' | undefined {
  const address =
    preparation && programmeAddress(source, 'trace', { preparation: JSON.stringify(preparation), columns: COLUMNS });
  const { data, isError } = useQuery(bundleQuery(address, fetchTrace));
  return isError ? 'failed' : data;
}

/** What an address names in full, and what therefore never changes; nothing without one. */
export function bundleQuery<T>(address: string | null, fetchIt: (address: string, signal: AbortSignal) => Promise<T>) {
  return queryOptions({
    queryKey: ['bundle', address],
    queryFn: address === null ? skipToken : ({ signal }) => fetchIt(address, signal),
    // Arrays of numbers: nothing in them is worth comparing, and they are large.
    structuralSharing: false,
    gcTime: KEPT_MS,
  });
}

/** Engine, source and layout are a part of the address, since the browser keeps the answer. */
export function programmeAddress(
  { programmeId, sha256, layout }: SourceKey,
  route: string,
  asked: Record<string, string | number>,
): string {
  const of = { engine: ENGINE_VERSION, source: sha256.slice(0, 16), layout };
  const query = new URLSearchParams(Object.entries({ ...asked, ...of }).map(([name, value]) => [name, `${value}`]));
  return `/api/programmes/${programmeId}/${route}?${query}`;
}

export async function fetchArrays<Meta>(address: string, signal: AbortSignal) {
  return decodeArrays<Meta>(await (await fetchAnswer(address, signal)).arrayBuffer());
}

async function fetchTrace(address: string, signal: AbortSignal): Promise<Trace> {
  const { meta, arrays } = await fetchArrays<TraceMeta>(address, signal);
  const weightedPower = arrays.weightedPower as Float32Array;
  return {
    meta,
    weightedPower,
    shortTerm: loudnessCurve(weightedPower, SHORT_TERM_BINS),
    momentary: loudnessCurve(weightedPower, MOMENTARY_BINS),
    peaks: {
      peaks: meta.channelLabels.map((_, i) => arrays[`truePeaks${i}`] as Float32Array),
      frames: meta.channelLabels.map((_, i) => arrays[`truePeakFrames${i}`] as Float64Array),
    },
    waveforms: waveformsOf(arrays, meta.channelLabels.length),
  };
}

/** The channels' waveforms in a bundle. */
export function waveformsOf(arrays: Record<string, unknown>, channels: number): Waveform[] {
  return Array.from({ length: channels }, (_, i) => ({
    min: arrays[`min${i}`] as Float32Array,
    max: arrays[`max${i}`] as Float32Array,
  }));
}
