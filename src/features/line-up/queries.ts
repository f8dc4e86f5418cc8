import { queryOptions, skipToken } from '@tanstack/react-query';
import type { DeliveryFormatInput } from '@/core/delivery/format';
import type { RecordForm } from '@/core/lineup/assembly';
import type { Place } from '@/core/lineup/null/null-source';
import { fetchAnswer, fetchJson } from '@/features/common/data/fetch-json';
import { decodeArrays } from '@/formats/array-bundle';
import type { AssemblyPreview, AssemblyView } from '@/server/assemblies/assemblies';
import type { BookPreview } from '@/server/assemblies/book';
import type { FilmView } from '@/server/assemblies/film';
import type { BalanceForecast } from '@/server/line-ups/balance';
import type { LineUpReadingView } from '@/server/line-ups/line-up-reading';
import type { LineUpsView } from '@/server/line-ups/proposals';
import type { StemsView } from '@/server/stems/null-test';
import { raised } from './stems/raised';

/** The line-ups of a job, and those that names suggest. */
export const lineUpsQuery = (jobId: string) =>
  queryOptions({
    queryKey: ['job', jobId, 'line-ups'],
    queryFn: ({ signal }) => fetchJson<LineUpsView>(`/api/jobs/${jobId}/line-ups`, signal),
  });

/** A line-up as it is set, read as one programme. */
export const lineUpReadingQuery = (jobId: string, lineUpId: string, specId: string) =>
  queryOptions({
    queryKey: ['job', jobId, 'line-up-reading', lineUpId, specId],
    queryFn: ({ signal }) =>
      fetchJson<LineUpReadingView>(
        `/api/line-ups/${lineUpId}/reading?${new URLSearchParams({ spec: specId })}`,
        signal,
      ),
    // What was read before stays until what has changed is read.
    placeholderData: (before) => (before?.lineUp.id === lineUpId ? before : undefined),
  });

/** What each way of setting the levels would come to. @param key of everything that it is worked out from */
export const balancesQuery = (jobId: string, lineUpId: string, specId: string, key: string) =>
  queryOptions({
    queryKey: ['job', jobId, 'line-up-balances', lineUpId, specId, key],
    queryFn: async ({ signal }) => {
      const address = `/api/line-ups/${lineUpId}/balance?${new URLSearchParams({ spec: specId })}`;
      return (await fetchJson<{ forecasts: BalanceForecast[] }>(address, signal)).forecasts;
    },
    placeholderData: (before) => before,
    retry: false,
  });

/** What was written of a line-up, and what is being written. */
export const assembliesQuery = (jobId: string, lineUpId: string) =>
  queryOptions({
    queryKey: ['job', jobId, 'assemblies', lineUpId],
    queryFn: async ({ signal }) =>
      (await fetchJson<{ assemblies: AssemblyView[] }>(`/api/line-ups/${lineUpId}/assemblies`, signal)).assemblies,
  });

/** What would be written of it. */
export const previewQuery = (jobId: string, lineUpId: string, form: RecordForm, format: DeliveryFormatInput) =>
  queryOptions({
    queryKey: ['job', jobId, 'assembly-preview', lineUpId, form, format],
    queryFn: ({ signal }) =>
      fetchJson<AssemblyPreview>(
        `/api/line-ups/${lineUpId}/preview?${new URLSearchParams({ form, format: JSON.stringify(format) })}`,
        signal,
      ),
    placeholderData: (before) => before,
    retry: false,
  });

/** What a book's folder would hold. */
export const bookQuery = (jobId: string, lineUpId: string, specId: string) =>
  queryOptions({
    queryKey: ['job', jobId, 'book', lineUpId, specId],
    queryFn: ({ signal }) =>
      fetchJson<BookPreview>(`/api/line-ups/${lineUpId}/book?${new URLSearchParams({ spec: specId })}`, signal),
    placeholderData: (before) => before,
  });

/** A film, and how far its sound is. */
export const filmQuery = (jobId: string, lineUpId: string) =>
  queryOptions({
    queryKey: ['job', jobId, 'film', lineUpId],
    queryFn: ({ signal }) => fetchJson<FilmView>(`/api/line-ups/${lineUpId}/film`, signal),
  });

/** What is heard where one programme passes into the next. */
export interface HeardTransition {
  sampleRateHz: number;
  endFrame: number;
  startFrame: number;
  channels: Float32Array[];
  reductionDb: readonly [Float32Array, Float32Array];
}

/** @param key of everything that it is made of: it is rendered anew once that has changed */
export const transitionQuery = (jobId: string, lineUpId: string, afterId: string | null, key: string) =>
  queryOptions({
    queryKey: ['job', jobId, 'transition', lineUpId, afterId, key],
    queryFn:
      afterId === null
        ? skipToken
        : async ({ signal }): Promise<HeardTransition> => {
            const address = `/api/line-ups/${lineUpId}/transition?${new URLSearchParams({ after: afterId })}`;
            const bytes = await (await fetchAnswer(address, signal)).arrayBuffer();
            const { meta, arrays } = decodeArrays<
              Omit<HeardTransition, 'channels' | 'reductionDb'> & { channels: number }
            >(bytes);
            return {
              ...meta,
              channels: Array.from({ length: meta.channels }, (_, i) => arrays[`channel${i}`] as Float32Array),
              reductionDb: [arrays.reduction0 as Float32Array, arrays.reduction1 as Float32Array],
            };
          },
    structuralSharing: false,
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 60_000,
    retry: false,
  });

/** The stems of a line-up, and how they compare with their mix. */
export const stemsQuery = (jobId: string, lineUpId: string) =>
  queryOptions({
    queryKey: ['job', jobId, 'assemblies', lineUpId, 'stems'],
    queryFn: ({ signal }) => fetchJson<StemsView>(`/api/line-ups/${lineUpId}/stems`, signal),
  });

/** What is left of a mix without its stems, raised to where it is heard. */
export interface HeardResidual {
  sampleRateHz: number;
  channels: Float32Array[];
  raisedByDb: number;
}

/** @param testedAtMs of the test that found it */
export const residualQuery = (lineUpId: string, place: Place | null, testedAtMs: number) =>
  queryOptions({
    queryKey: ['residual', lineUpId, place, testedAtMs],
    queryFn:
      place === null
        ? skipToken
        : async ({ signal }): Promise<HeardResidual> => {
            const asked = { from: `${place.startFrame}`, frames: `${place.endFrame - place.startFrame}` };
            const address = `/api/line-ups/${lineUpId}/stems/residual?${new URLSearchParams(asked)}`;
            const bytes = await (await fetchAnswer(address, signal)).arrayBuffer();
            const { meta, arrays } = decodeArrays<{ sampleRateHz: number; channels: number }>(bytes);
            const channels = Array.from({ length: meta.channels }, (_, i) => arrays[`channel${i}`] as Float32Array);
            return { sampleRateHz: meta.sampleRateHz, ...raised(channels) };
          },
    structuralSharing: false,
    gcTime: 60_000,
    retry: false,
  });
