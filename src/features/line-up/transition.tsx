'use client';

import { useQuery } from '@tanstack/react-query';
import { Play, Square } from 'lucide-react';
import { useCallback, useEffect, useState } from 'react';
import { formatNumber } from '@/core/units/format';
import { recordOf } from '@/features/common/data/fetch-json';
import { ErrorNotice } from '@/features/common/error-notice';
import type { TrackView } from '@/server/line-ups/line-up-reading';
import { Button } from '@/ui/button';
import { Card } from '@/ui/card';
import { transitionMessages as messages } from './messages';
import { transitionQuery } from './queries';
import { TransitionPicture } from './transition-picture';
import { useKey, usePlayed } from './use-played';

/** Where one programme passes into the next: seen, and heard with one key, as it will be written. */
export function TransitionCard({
  jobId,
  lineUpId,
  tracks,
  chosenId,
  settingsKey,
}: {
  jobId: string;
  lineUpId: string;
  tracks: readonly TrackView[];
  chosenId: string | null;
  /** Changes with whatever a transition is rendered from. */
  settingsKey: string;
}) {
  const chosen = tracks.findIndex(({ programmeId }) => programmeId === chosenId);
  const at = Math.max(0, Math.min(chosen, tracks.length - 2));
  const [first, second] = [tracks[at], tracks[at + 1]];
  const [isWanted, setIsWanted] = useState(false);
  const { data, error, isFetching } = useQuery(
    transitionQuery(jobId, lineUpId, second ? (first?.programmeId ?? null) : null, settingsKey),
  );
  const { isPlaying, seconds, play, stop } = usePlayed(data);
  useEffect(() => {
    if (!isWanted || !data) return;
    setIsWanted(false);
    play(data);
  }, [isWanted, data, play]);
  const toggle = useCallback(() => {
    if (isPlaying) stop();
    else setIsWanted(true);
  }, [isPlaying, stop]);
  useKey('t', toggle);
  if (!first || !second) return null;
  return (
    <Card className="flex min-w-0 flex-col gap-2">
      <div className="flex items-center gap-3">
        <Button
          kind="primary"
          aria-label={isPlaying ? messages.stop : messages.play}
          title={isPlaying ? messages.stop : messages.play}
          onClick={toggle}
        >
          {isPlaying ? <Square size={15} aria-hidden /> : <Play size={15} aria-hidden />}
        </Button>
        <div className="min-w-0">
          <h2 className="truncate text-sm font-bold">{messages.between(first.title, second.title)}</h2>
          <p className="text-xs text-mute">
            {isFetching ? messages.preparing : messages.what(gapText(first.gapSeconds ?? 0))}
          </p>
        </div>
      </div>
      <ErrorNotice error={error ? recordOf(error) : undefined} />
      <TransitionPicture
        transition={data}
        label={messages.picture(first.title, second.title)}
        playedSeconds={isPlaying ? seconds : null}
      />
    </Card>
  );
}

function gapText(gapSeconds: number): string {
  if (gapSeconds === 0) return messages.joined;
  const text = formatNumber(Math.abs(gapSeconds), 2);
  return gapSeconds > 0 ? messages.gap(text) : messages.overlap(text);
}
