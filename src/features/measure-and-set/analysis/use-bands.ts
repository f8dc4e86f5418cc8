'use client';

import { keepPreviousData, useQuery } from '@tanstack/react-query';
import type { BandPair } from '@/core/inspection/third-octaves';
import { toTreatedFrame } from '@/core/treatment/timeline';
import { useSettled } from '@/features/common/use-settled';
import { bundleQuery, fetchArrays, programmeAddress } from '@/features/common/use-trace';
import type { BandsMeta } from '@/server/measure/bands';
import { useDesk } from '../desk/desk-context';

/** What each third of an octave of a stretch holds, as it was fetched. */
export interface Bands extends BandsMeta {
  before: Float64Array;
  after: Float64Array;
  startFrames: Float64Array;
  correlation: Float32Array;
  pair: BandPair | null;
}

async function fetchBands(address: string, signal: AbortSignal): Promise<Bands> {
  const { meta, arrays } = await fetchArrays<BandsMeta>(address, signal);
  const { left, right, product, ...own } = arrays as unknown as Omit<Bands, keyof BandsMeta> & Partial<BandPair>;
  return { ...meta, ...own, pair: left && right && product ? { left, right, product } : null };
}

/** The bands of the span, or of the whole programme without one; undefined until they are known. */
export function useBands(): { bands: Bands | 'failed' | undefined; gainDb: number } {
  const { treated, treatment, span, timeline } = useDesk();
  const { prepared, source } = treated;
  // A gain alone moves all of it alike: that needs no asking.
  const gainDb = treatment.limit ? 0 : treatment.gainDb + treatment.outputGainDb;
  const asked = treatment.limit ? treatment : { ...treatment, gainDb: 0, outputGainDb: 0 };
  const within = (frame: number) =>
    Math.min(prepared?.meta.frames ?? 0, Math.max(0, Math.round(toTreatedFrame(timeline, frame))));
  const startFrame = span ? within(span.startFrame) : 0;
  const endFrame = span ? within(span.endFrame) : (prepared?.meta.frames ?? 0);
  const address =
    prepared && endFrame > startFrame
      ? programmeAddress(source, 'bands', {
          treatment: JSON.stringify(asked),
          startFrame,
          frames: endFrame - startFrame,
        })
      : null;
  const settled = useSettled(address);
  const { data, isError } = useQuery({ ...bundleQuery(settled, fetchBands), placeholderData: keepPreviousData });
  return { bands: isError ? 'failed' : data, gainDb };
}
