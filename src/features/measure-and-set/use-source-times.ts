import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import type { StartTimeCode } from '@/core/units/time-code';
import { answered } from '@/features/common/data/fetch-json';
import type { ProgrammeView } from '@/server/jobs/programme-view';
import { sourceTimes } from './actions';
import { useSourceTimesMessages as messages } from './messages';
import type { NamedPlace } from './places';

/** The markers and the time code that a file came with, once they have been read. */
export function useSourceTimes({ id, sha256, timeCode }: Pick<ProgrammeView, 'id' | 'sha256' | 'timeCode'>): {
  fileMarkers: NamedPlace[];
  timeCode: StartTimeCode | null;
} {
  const { data } = useQuery({
    queryKey: ['source', sha256, 'times', id, timeCode],
    queryFn: () => answered(sourceTimes(id)),
  });
  const fileMarkers = useMemo(
    () =>
      (data?.markers ?? []).map(({ frame, lengthFrames, label }, i) => ({
        key: `file ${i}`,
        frame,
        frames: lengthFrames,
        name: label || `Marker ${i + 1}`,
        detail: messages.ofTheFile,
      })),
    [data],
  );
  return { fileMarkers, timeCode: data?.timeCode ?? null };
}
