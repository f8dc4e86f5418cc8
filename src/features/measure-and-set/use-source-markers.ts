import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import { answered } from '@/features/common/data/fetch-json';
import { sourceMarkers } from './actions';
import { useSourceMarkersMessages as messages } from './messages';
import type { NamedPlace } from './places';

/** The markers that a file came with, once they have been read. */
export function useSourceMarkers(sha256: string): NamedPlace[] {
  const { data } = useQuery({
    queryKey: ['source', sha256, 'markers'],
    queryFn: () => answered(sourceMarkers(sha256)),
  });
  return useMemo(
    () =>
      (data ?? []).map(({ frame, lengthFrames, label }, i) => ({
        key: `file ${i}`,
        frame,
        frames: lengthFrames,
        name: label || `Marker ${i + 1}`,
        detail: messages.ofTheFile,
      })),
    [data],
  );
}
