'use client';

import { useEffect, useState } from 'react';
import { ENGINE_VERSION } from '@/core/loudness/readings';
import type { PeakSeries } from '@/core/peak/overs';
import { decodeArrays } from '@/formats/array-bundle';
import type { TraceMeta } from '@/server/measure/trace';

export interface Trace {
  meta: TraceMeta;
  /** Of every 100 ms. */
  weightedPower: Float32Array;
  /** The greatest of each column of the series, in LUFS. */
  shortTerm: Float32Array;
  momentary: Float32Array;
  peaks: PeakSeries;
  /** Least and greatest sample of all channels, for each column. */
  min: Float32Array;
  max: Float32Array;
}

/** Columns that the waveform is fetched in: finer than most screens, so that a resize fetches nothing. */
const COLUMNS = 1600;

/** Fetches what is drawn of a source measured in a layout; undefined while it is on its way, 'failed' where it can't be had. */
export function useTrace(sha256: string, layout: string): Trace | 'failed' | undefined {
  const [loaded, setLoaded] = useState<{ key: string; trace: Trace | 'failed' }>();
  const key = `${sha256} ${layout}`;
  useEffect(() => {
    const abort = new AbortController();
    fetchTrace(sha256, layout, abort.signal)
      .catch((): 'failed' => 'failed')
      .then((trace) => {
        if (!abort.signal.aborted) setLoaded({ key: `${sha256} ${layout}`, trace });
      });
    return () => abort.abort();
  }, [sha256, layout]);
  return loaded?.key === key ? loaded.trace : undefined;
}

/** Engine and layout are a part of the address, since the browser keeps the answer. */
async function fetchTrace(sha256: string, layout: string, signal: AbortSignal): Promise<Trace> {
  const query = new URLSearchParams({ columns: `${COLUMNS}`, engine: ENGINE_VERSION, layout });
  const response = await fetch(`/api/sources/${sha256}/trace?${query}`, { signal });
  if (!response.ok) throw new Error(`trace: ${response.status}`);
  const { meta, arrays } = decodeArrays<TraceMeta>(await response.arrayBuffer());
  return {
    meta,
    weightedPower: arrays.weightedPower as Float32Array,
    shortTerm: arrays.shortTerm as Float32Array,
    momentary: arrays.momentary as Float32Array,
    peaks: {
      peaks: meta.channelLabels.map((_, i) => arrays[`truePeaks${i}`] as Float32Array),
      frames: meta.channelLabels.map((_, i) => arrays[`truePeakFrames${i}`] as Float64Array),
    },
    min: arrays.min as Float32Array,
    max: arrays.max as Float32Array,
  };
}
