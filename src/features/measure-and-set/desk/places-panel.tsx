'use client';

import { useMemo, useState } from 'react';
import { OptionList } from '@/features/common/option-list';
import { dropMarker, nameMarker } from '../actions';
import { PictureView } from '../film/picture-view';
import { ListImport } from '../list-import';
import { PlaceLists } from '../place-lists';
import { foundPlaces, nextPlace, type Place, placeOfOver, placeOfPassage, quietestPlace } from '../places';
import { useDesk, useDeskCommands } from './desk-context';

/** Where to listen first, and what can be done where the ceiling stops the gain. */
export function PlacesPanel() {
  const desk = useDesk();
  const { programme, measured, treated, treatment, timeline, rateHz, spec, overs, selected, select, store } = desk;
  const { treating, acting, fileMarkers, timeCode } = desk;
  const { isStopped, offered, options } = desk.options;
  const { findings } = measured;
  const { placeList: list, setPlaceList: setList } = desk;
  // An over that was pointed at is shown among the others.
  const [shownOver, setShownOver] = useState<Place>();
  if (selected !== shownOver) {
    setShownOver(selected);
    if (selected?.key.startsWith('over ')) setList('overs');
  }
  const trace = typeof treated.trace === 'object' ? treated.trace : null;
  const quietest = useMemo(() => trace && quietestPlace(trace.weightedPower, rateHz), [trace, rateHz]);
  const found = useMemo(
    () => [...foundPlaces(findings, rateHz), ...(quietest ? [quietest] : []), ...fileMarkers],
    [findings, rateHz, quietest, fileMarkers],
  );
  const overPlaces = overs.map((over) => placeOfOver(over, timeline));
  const markerPlaces: Place[] = [
    ...programme.markers.map((marker) => ({ key: `marker ${marker.id}`, frame: marker.startFrame, frames: 0 })),
    ...fileMarkers,
  ].sort((a, b) => a.frame - b.frame);
  const next = (places: readonly Place[], direction: 1 | -1) => select(nextPlace(places, store.get().frame, direction));
  const loudest = (seconds: 3 | 10) => {
    const passage = (seconds === 3 ? treated.after.loudest3s : treated.after.loudest10s)[0];
    if (!passage) return;
    const place = placeOfPassage(passage, seconds, timeline, rateHz);
    select(place);
    // It is the span as well: what is looped next is what was gone to.
    const endFrame = Math.min(programme.format.frames, place.frame + place.frames);
    store.setSpan({ startFrame: place.frame, endFrame });
  };
  /** A span that was kept is the span again: to be heard, measured and delivered. */
  const choose = (place: Place | undefined) => {
    select(place);
    if (!place?.key.startsWith('marker ') || place.frames === 0) return;
    const endFrame = Math.min(programme.format.frames, place.frame + place.frames);
    store.setSpan({ startFrame: place.frame, endFrame });
  };
  const option = (index: number) => () => options[index] && treating.commit(options[index].levels);
  useDeskCommands({
    'option-1': option(0),
    'option-2': option(1),
    'option-3': option(2),
    'next-over': () => next(overPlaces, 1),
    'previous-over': () => next(overPlaces, -1),
    'next-clip': () =>
      next(
        found.filter(({ key }) => key.startsWith('clipped')),
        1,
      ),
    'loudest-3': () => loudest(3),
    'loudest-10': () => loudest(10),
    quietest: () => select(quietest ?? undefined),
    'next-marker': () => next(markerPlaces, 1),
    'previous-marker': () => next(markerPlaces, -1),
  });
  return (
    <PlaceLists
      overs={overs}
      treated={treated.after}
      spec={spec}
      timeline={timeline}
      rateHz={rateHz}
      timeCode={timeCode}
      channelLabels={treated.before.perChannel.map(({ label }) => label)}
      found={found}
      markers={programme.markers}
      selected={selected}
      options={
        isStopped ? (
          <OptionList offered={offered} spec={spec} levels={treatment} onChoose={treating.commit} withKeys />
        ) : null
      }
      list={list ?? (isStopped ? 'options' : 'overs')}
      onList={setList}
      onSelect={choose}
      isKnown={treated.prepared !== null}
      onDrop={(markerId) => void acting.act(() => dropMarker(markerId))}
      fromList={<ListImport programmeId={programme.id} />}
      picture={programme.film ? <PictureView /> : null}
      onRename={(markerId, name) => void acting.act(() => nameMarker(markerId, name))}
    />
  );
}
