'use client';

import { useState, useTransition } from 'react';
import type { ErrorRecord } from '@/core/errors/app-error';
import { ErrorNotice } from '@/features/common/error-notice';
import { Choice } from '@/ui/choice';
import { setTrack } from './actions';

/** Which sound track of a file with several is worked on. */
export function TrackChoice({ sha256, track }: { sha256: string; track: { number: number; of: number } }) {
  const [isPending, startTransition] = useTransition();
  const [error, setError] = useState<ErrorRecord>();
  const choose = (value: string) =>
    startTransition(async () => {
      const result = await setTrack(sha256, Number(value));
      setError(result.ok ? undefined : result.error);
    });
  return (
    <div className="mt-1.5" aria-busy={isPending}>
      <Choice
        label="Sound track"
        value={String(track.number)}
        options={Array.from({ length: track.of }, (_, i) => ({
          value: String(i + 1),
          label: `track ${i + 1} of ${track.of}`,
        }))}
        onChange={choose}
      />
      <ErrorNotice error={error} />
    </div>
  );
}
