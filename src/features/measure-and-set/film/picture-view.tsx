'use client';

import { useQuery } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { pictureSecondsAt } from '@/core/film/picture-segments';
import { fetchAnswer, recordOf } from '@/features/common/data/fetch-json';
import { useDesk } from '../desk/desk-context';
import { filmMessages as messages } from './messages';
import { PicturePlayer } from './picture-player';
import { pictureQuery } from './queries';

/** The picture of a film, in step with what is heard, and where one is while nothing is. */
export function PictureView() {
  const { programme, store, rateHz, audition } = useDesk();
  const { playhead } = audition;
  const { data: picture } = useQuery(pictureQuery(programme.id));
  const video = useRef<HTMLVideoElement>(null);
  const [problem, setProblem] = useState('');
  const [isThere, setThere] = useState(false);
  useEffect(() => {
    const element = video.current;
    if (!picture || !element) return;
    const player = new PicturePlayer(element, {
      ...picture,
      fetchSegment: async (number, signal) => {
        const address = `/api/programmes/${programme.id}/picture/segment?${new URLSearchParams({ number: `${number}` })}`;
        return (await fetchAnswer(address, signal)).arrayBuffer();
      },
      onFailure: (error) => setProblem(recordOf(error).happened),
    });
    const show = () => {
      const heard = playhead.get();
      const seconds = pictureSecondsAt((heard ?? store.get().frame) / rateHz, picture);
      setThere(seconds !== null);
      if (seconds !== null) player.show(seconds, heard !== null);
      else element.pause();
    };
    show();
    const ends = [playhead.subscribe(show), store.subscribe(show)];
    return () => {
      for (const end of ends) end();
      player.close();
    };
  }, [picture, programme.id, playhead, store, rateHz]);
  if (picture === null) return <p className="py-2 text-sm text-mute">{messages.noPicture}</p>;
  return (
    <div className="relative h-full min-h-0 overflow-hidden rounded-control bg-[#14101f]">
      <video
        ref={video}
        muted
        playsInline
        preload="auto"
        aria-label={messages.pictureOf(programme.title)}
        className={isThere ? 'h-full w-full object-contain' : 'hidden'}
      />
      {problem ? <p className="absolute inset-x-2 bottom-1 text-xs text-[#ffffff]">▲ {problem}</p> : null}
      {picture && !isThere ? <p className="p-2 text-sm text-[#ffffff]">{messages.noneHere}</p> : null}
    </div>
  );
}
