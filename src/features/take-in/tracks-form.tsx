'use client';

import { useState } from 'react';
import { proposedTrackGroups } from '@/core/film/track-groups';
import { parseTrackLists, trackListText } from '@/core/film/track-lists';
import { useChanged } from '@/features/common/data/use-changed';
import { ErrorNotice } from '@/features/common/error-notice';
import { useAct } from '@/features/common/use-act';
import type { SoundTrack } from '@/formats/metadata';
import { Button } from '@/ui/button';
import { Field } from '@/ui/field';
import { takeTracks } from './actions';
import { tracksFormMessages as messages } from './messages';

/** Which tracks of a film belong together, and takes each of these in as a programme of its own. */
export function TracksForm({
  programmeId,
  tracks,
  onTaken,
}: {
  programmeId: string;
  tracks: readonly SoundTrack[];
  onTaken: () => void;
}) {
  const [text, setText] = useState(() => proposedTrackGroups(tracks).map(trackListText).join(', '));
  const { act, isBusy, error } = useAct(useChanged());
  const lists = parseTrackLists(text);
  const isThere = lists?.flat().every((number) => number <= tracks.length) ?? false;
  const problem = lists === undefined ? messages.notRead : isThere ? undefined : messages.noSuchTrack(tracks.length);
  return (
    <form
      className="mt-2 flex flex-col gap-1.5"
      onSubmit={(event) => {
        event.preventDefault();
        if (lists && isThere) void act(() => takeTracks(programmeId, lists), onTaken);
      }}
    >
      <Field
        label={messages.together}
        value={text}
        onChange={(event) => setText(event.target.value)}
        problem={problem}
        hint={messages.hint}
      />
      <Button type="submit" disabled={isBusy || problem !== undefined} className="self-start">
        {messages.take(lists?.length ?? 0)}
      </Button>
      <ErrorNotice error={error} />
    </form>
  );
}
