'use client';

import { useCallback, useEffect, useLayoutEffect, useMemo, useRef, useState } from 'react';
import { AuditionPlayer, type Playable } from '@/workers/browser/audition-player';
import { Playhead, type TraceStore } from '../trace/store';
import type { Span } from '../trace/view';
import { LiveStore } from './live-store';

/** What can be heard, by name; the first is what is set now. */
export interface HeardChoice {
  id: string;
  name: string;
  playable: Playable;
}

/** Settings that come close together, as from a drag, are heard as one where each has to be fetched. */
const SETTLE_MS = 120;
/** The player is made so long after the desk. */
const MADE_AFTER_MS = 500;
/** A version counts as heard once it was listened to for so long. */
const HEARD_MS = 3000;

export interface Audition {
  isPlaying: boolean;
  isStarved: boolean;
  hasFailed: boolean;
  heardId: string;
  isLooping: boolean;
  isMono: boolean;
  isRemovedOnly: boolean;
  live: LiveStore;
  playhead: Playhead;
  toggle: () => void;
  playFrom: (frame: number) => void;
  seek: (frame: number) => void;
  hear: (id: string) => void;
  setLooping: (isLooping: boolean) => void;
  setMono: (isMono: boolean) => void;
  setRemovedOnly: (isRemovedOnly: boolean) => void;
  clear: () => void;
}

/** The first of equal versions, whatever objects they come as: what is heard begins anew only with another. */
function useSame(playable: Playable | null): Playable | null {
  const [kept, setKept] = useState(playable);
  const isSame = JSON.stringify(kept?.version) === JSON.stringify(playable?.version);
  if (!isSame) setKept(playable);
  return isSame ? kept : playable;
}

/**
 * Hearing a programme while it is set.
 *
 * @param options.ratio frames that are heard in one of the source
 * @param options.span that is looped
 * @param options.onHeard called once for what is set, when it was listened to for some seconds
 */
export function useAudition(options: {
  rateHz: number;
  channels: number;
  ratio: number;
  choices: readonly HeardChoice[];
  store: TraceStore;
  span: Span | null;
  onHeard: () => void;
}): Audition {
  const { rateHz, channels, ratio, choices, store, span, onHeard } = options;
  const player = useRef<AuditionPlayer>(undefined);
  const [playhead] = useState(() => new Playhead());
  const [live] = useState(() => new LiveStore());
  const [state, setState] = useState({ isPlaying: false, isStarved: false, hasFailed: false });
  const [heardId, setHeardId] = useState(choices[0]?.id ?? '');
  const [otherId, setOtherId] = useState<string | null>(null);
  const [isLooping, setLooping] = useState(false);
  const [listening, setListening] = useState({ mono: false, removedOnly: false });
  const heard = choices.find(({ id }) => id === heardId) ?? choices[0];
  const other = choices.find(({ id }) => id === otherId) ?? null;
  const latest = useRef({ heard, other, listening, loop: null as Span | null, ratio });
  const loop = useMemo(
    () =>
      isLooping && span
        ? { startFrame: Math.round(span.startFrame * ratio), endFrame: Math.round(span.endFrame * ratio) }
        : null,
    [isLooping, span, ratio],
  );
  useLayoutEffect(() => {
    latest.current = { heard, other, listening, loop, ratio };
  });

  const ensure = useCallback(() => {
    if (player.current?.sampleRateHz === rateHz) return player.current;
    if (player.current) {
      // At another rate it is begun anew.
      void player.current.close();
      playhead.set(null);
      setState({ isPlaying: false, isStarved: false, hasFailed: false });
    }
    const made = new AuditionPlayer({ sampleRateHz: rateHz, channels }, '/audition-worklet.js', {
      onReport: (report, isBehind) => {
        if (player.current !== made) return;
        const { isPlaying, isStarved, frame, hasEnded } = report;
        live.take(report);
        if (isBehind) return;
        playhead.set(isPlaying ? frame / latest.current.ratio : null);
        setState((before) => {
          // What could not be fetched matters for as long as it is missing.
          const hasFailed = before.hasFailed && isStarved;
          const isSame = before.isPlaying === isPlaying && before.isStarved === isStarved;
          return isSame && before.hasFailed === hasFailed
            ? before
            : { isPlaying: isPlaying && !hasEnded, isStarved, hasFailed };
        });
      },
      onFailure: () => setState((before) => ({ ...before, hasFailed: true })),
    });
    player.current = made;
    live.begin(rateHz);
    const now = latest.current;
    made.seek(Math.round(store.get().frame * now.ratio));
    if (now.heard) made.hear(now.heard.playable);
    made.keepReady(now.other?.playable ?? null);
    made.listen(now.listening);
    made.setLoop(now.loop);
    return made;
  }, [rateHz, channels, live, playhead, store]);

  useEffect(
    () => () => {
      void player.current?.close();
      player.current = undefined;
    },
    [],
  );

  // Made ahead of the first key, once the page has come to rest: what it will play first is there then.
  useEffect(() => {
    const timer = setTimeout(ensure, MADE_AFTER_MS);
    return () => clearTimeout(timer);
  }, [ensure]);
  useEffect(
    () =>
      store.subscribe(() => {
        if (playhead.get() === null) player.current?.seek(Math.round(store.get().frame * latest.current.ratio));
      }),
    [store, playhead],
  );

  const playable = useSame(heard?.playable ?? null);
  useEffect(() => {
    if (!player.current || !playable) return;
    if (playable.version.reductionId === null) {
      player.current.hear(playable);
      return;
    }
    const timer = setTimeout(() => player.current?.hear(playable), SETTLE_MS);
    return () => clearTimeout(timer);
  }, [playable]);
  const readied = useSame(other?.playable ?? null);
  useEffect(() => player.current?.keepReady(readied), [readied]);
  useEffect(() => player.current?.listen(listening), [listening]);
  useEffect(() => player.current?.setLoop(loop), [loop]);

  const isSetHeard = state.isPlaying && heard === choices[0];
  // Listened to anew whenever what is set has changed.
  useEffect(() => {
    if (!isSetHeard || !playable) return;
    const timer = setTimeout(onHeard, HEARD_MS);
    return () => clearTimeout(timer);
  }, [isSetHeard, playable, onHeard]);

  const playFrom = useCallback(
    (frame: number) => {
      setState({ isPlaying: true, isStarved: false, hasFailed: false });
      void ensure().play(Math.round(frame * ratio));
    },
    [ensure, ratio],
  );
  const toggle = useCallback(() => {
    if (!state.isPlaying) {
      const { frame } = store.get();
      const isOutside = isLooping && span && (frame < span.startFrame || frame >= span.endFrame);
      playFrom(isOutside ? span.startFrame : frame);
      return;
    }
    player.current?.pause();
    const at = playhead.get();
    if (at !== null) store.setFrame(at);
    playhead.set(null);
    setState((before) => ({ ...before, isPlaying: false }));
  }, [state.isPlaying, playFrom, playhead, store, isLooping, span]);
  const seek = useCallback(
    (frame: number) => {
      store.setFrame(frame);
      player.current?.seek(Math.round(frame * ratio));
    },
    [store, ratio],
  );
  const hear = useCallback(
    (id: string) => {
      if (id === heardId) return;
      setOtherId(heardId);
      setHeardId(id);
    },
    [heardId],
  );
  const clear = useCallback(() => {
    player.current?.clear();
    live.clear();
  }, [live]);

  return {
    ...state,
    heardId: heard?.id ?? '',
    isLooping,
    isMono: listening.mono,
    isRemovedOnly: listening.removedOnly,
    live,
    playhead,
    toggle,
    playFrom,
    seek,
    hear,
    setLooping,
    clear,
    setMono: (mono) => setListening((before) => ({ ...before, mono })),
    setRemovedOnly: (removedOnly) => setListening((before) => ({ ...before, removedOnly })),
  };
}
