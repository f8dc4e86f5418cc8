import { queryOptions } from '@tanstack/react-query';
import type { PictureTimes } from '@/core/film/picture-segments';
import { fetchJson } from '@/features/common/data/fetch-json';

/** When the picture of a programme's film is shown; null where it has none. */
export const pictureQuery = (programmeId: string) =>
  queryOptions({
    queryKey: ['picture', programmeId],
    queryFn: async ({ signal }) =>
      (await fetchJson<{ picture: PictureTimes | null }>(`/api/programmes/${programmeId}/picture`, signal)).picture,
  });
