'use client';

import dynamic from 'next/dynamic';
import { useRouter } from 'next/navigation';
import { useCallback, useMemo, useState } from 'react';
import { treatedFacts } from '@/core/delivery/facts';
import { channelLayout } from '@/core/loudness/channel-layout';
import { assess } from '@/core/spec/assess';
import { mixedChannels } from '@/core/treatment/steps/mix-channels';
import { timelineOf } from '@/core/treatment/timeline';
import type { Treatment } from '@/core/treatment/treatment';
import { stageAddress } from '@/features/common/address';
import { useChanged } from '@/features/common/data/changes';
import { ErrorNotice } from '@/features/common/error-notice';
import { OptionList } from '@/features/common/option-list';
import { specOptions, useSpec, useSpecs } from '@/features/common/specs';
import { noteHeard } from '@/features/common/treatment-actions';
import { useAct } from '@/features/common/use-act';
import { useTreated } from '@/features/common/use-treated';
import type { AudioFormat } from '@/formats/audio-format';
import type { ProgrammeView } from '@/server/jobs/programme-view';
import { Button } from '@/ui/button';
import { Choice } from '@/ui/choice';
import { deliverSpan, dropMarker, keepMarker, nameMarker } from './actions';
import { Transport } from './audition/transport';
import { useAudition } from './audition/use-audition';
import { type LossySpan, useHeardChoices } from './audition/use-heard-choices';
import { type CommandId, useCommands, useKeyMap } from './commands';
import { DeskHeader } from './desk-header';
import { GainPanel } from './gain-panel';
import { KeysDialog } from './keys-dialog';
import { nearestText } from './nearest-text';
import {
  foundPlaces,
  nextPlace,
  type Place,
  type PlaceList,
  Places,
  placeOfOver,
  placeOfPassage,
  quietestPlace,
  useSourceMarkers,
} from './places';
import { ReadingsTable } from './readings-table';
import { Rule } from './rule';
import { SpanBar } from './span-bar';
import { StackedSpecs } from './stacked-specs';
import { useTraceState } from './trace/store';
import { TraceCard } from './trace/trace-card';
import { useLook } from './trace/use-look';
import { TreatmentCard } from './treatment/treatment-card';
import { type GainChoice, useOptions } from './use-options';
import { spanPeakDbtp, useOvers } from './use-overs';
import { useTraceStore } from './use-trace-store';
import { useTreatment } from './use-treatment';

const Charts = dynamic(() => import('./charts/charts').then((module) => module.Charts), { ssr: false });

/** A place is shown with so much around it, at most. */
const NEAR_SECONDS = 8;

/** The desk for one measured programme: what it is, how far from the spec, what brings it there, and how that sounds. */
export function Desk({
  jobId,
  programme,
  measured,
  specId,
  otherSpecIds,
  onSpec,
  onOthers,
}: {
  jobId: string;
  programme: ProgrammeView;
  measured: NonNullable<ProgrammeView['measured']>;
  specId: string;
  /** Specs that are stacked over it. */
  otherSpecIds: readonly string[];
  onSpec: (specId: string) => void;
  onOthers: (specIds: readonly string[]) => void;
}) {
  const { id, format, sha256, layoutId } = programme;
  const { readings: source, findings } = measured;
  const specs = useSpecs();
  const spec = useSpec(specId);
  const others = useMemo(
    () => specs.filter(({ id: own }) => own !== specId && otherSpecIds.includes(own)),
    [specs, otherSpecIds, specId],
  );
  const router = useRouter();
  const changed = useChanged();
  const { act, isBusy, error: problem, clearError } = useAct(changed);
  const { treatment, state, error, change, commit, step, flush } = useTreatment(id, programme);
  const treated = useTreated(programme, measured, treatment);
  const { gainDb, limit } = treatment;
  const { before, after, prepared, curve } = treated;
  const timeline = useMemo(() => timelineOf(treatment, format), [treatment, format]);
  const store = useTraceStore(format, timeline);
  const span = useTraceState(store, (own) => own.span);
  const written = treatedFormat(format, treatment);
  const verdict = assess(
    spec,
    treatedFacts({
      ...{ ...written, readings: after, treatment, source: format, tags: programme.tags },
      edges: treated.edges,
      frames: Math.round((timeline.endFrame - timeline.startFrame) * timeline.ratio),
    }),
  );

  const overs = useOvers(prepared, treatment, spec.peak.ceiling);
  const [selected, setSelected] = useState<Place>();
  const [list, setList] = useState<PlaceList>();

  const { solution, isStopped, offered, options, choices, starts } = useOptions(treated, spec, limit);
  const setGain = useCallback((value: number) => commit({ gainDb: value }), [commit]);

  const [isEqual, setEqual] = useState(true);
  const [lossy, setLossy] = useState<LossySpan | null>(null);
  const heardChoices = useHeardChoices(programme, source, treatment, treated, isEqual, lossy);
  const onHeard = useCallback(() => {
    flush();
    if (state.version > 0) void noteHeard(id, state.version).then(changed, () => undefined);
  }, [flush, state.version, id, changed]);
  const audition = useAudition({
    rateHz: written.sampleRateHz,
    channels: format.channels,
    ratio: timeline.ratio,
    choices: heardChoices,
    ...{ store, span, onHeard },
  });
  const [otherHeard, setOtherHeard] = useState('source');
  const hear = (heardId: string) => {
    setOtherHeard(audition.heardId);
    audition.hear(heardId);
  };

  const fileMarkers = useSourceMarkers(sha256);
  const rateHz = format.sampleRateHz;
  const trace = typeof treated.trace === 'object' ? treated.trace : null;
  const quietest = useMemo(() => trace && quietestPlace(trace.weightedPower, rateHz), [trace, rateHz]);
  const found = useMemo(
    () => [...foundPlaces(findings, rateHz), ...(quietest ? [quietest] : []), ...fileMarkers],
    [findings, rateHz, quietest, fileMarkers],
  );

  const select = (place: Place | undefined) => {
    setSelected(place);
    if (!place) return;
    store.goTo(place.frame, Math.max(place.frames * 2, NEAR_SECONDS * rateHz));
    audition.seek(place.frame);
  };
  const keepAMarker = () => {
    const { frame } = store.get();
    const at = span ?? { startFrame: Math.max(0, frame), endFrame: null };
    void act(() => keepMarker(id, { ...at, name: `${span ? 'Span' : 'Marker'} ${programme.markers.length + 1}` }));
  };
  const { keys, setKey, reset } = useKeyMap();
  const [isListingKeys, setListingKeys] = useState(false);
  const [isCharting, setCharting] = useState(false);
  const look = useLook();
  const overPlaces = overs.map((over) => placeOfOver(over, timeline));
  const markerPlaces: Place[] = [
    ...programme.markers.map((marker) => ({ key: `marker ${marker.id}`, frame: marker.startFrame, frames: 0 })),
    ...fileMarkers,
  ].sort((a, b) => a.frame - b.frame);
  const next = (places: readonly Place[], direction: 1 | -1) => select(nextPlace(places, store.get().frame, direction));
  const setEdge = (edge: 'startFrame' | 'endFrame') => {
    const { frame } = store.get();
    const whole = { startFrame: 0, endFrame: format.frames };
    const nextSpan = { ...(span ?? whole), [edge]: frame };
    if (nextSpan.endFrame > nextSpan.startFrame) store.setSpan(nextSpan);
  };
  const loudest = (seconds: 3 | 10) => {
    const passage = (seconds === 3 ? after.loudest3s : after.loudest10s)[0];
    if (!passage) return;
    const place = placeOfPassage(passage, seconds, timeline, rateHz);
    select(place);
    // It is the span as well: what is looped next is what was gone to.
    store.setSpan({ startFrame: place.frame, endFrame: Math.min(format.frames, place.frame + place.frames) });
  };
  const option = (index: number) => () => options[index] && commit(options[index].levels);
  const gainTo = (choiceId: GainChoice['id']) => () => {
    const choice = choices.find((own) => own.id === choiceId);
    if (choice?.gainDb != null) setGain(choice.gainDb);
  };
  const commands: Record<CommandId, () => void> = {
    play: audition.toggle,
    loop: () => audition.setLooping(!audition.isLooping),
    'hear-other': () => hear(otherHeard === audition.heardId ? 'source' : otherHeard),
    equal: () => setEqual(!isEqual),
    mono: () => audition.setMono(!audition.isMono),
    taken: () => audition.setTaken(!audition.isTaken),
    clear: audition.clear,
    target: gainTo('target'),
    ceiling: gainTo('ceiling'),
    headroom: gainTo('headroom'),
    'as-it-came': gainTo('as-it-came'),
    'option-1': option(0),
    'option-2': option(1),
    'option-3': option(2),
    undo: () => step('undo'),
    redo: () => step('redo'),
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
    'first-sound': () => audition.seek(timeline.startFrame),
    'last-sound': () => audition.seek(Math.max(timeline.startFrame, timeline.endFrame - 3 * rateHz)),
    'next-marker': () => next(markerPlaces, 1),
    'previous-marker': () => next(markerPlaces, -1),
    'span-start': () => setEdge('startFrame'),
    'span-end': () => setEdge('endFrame'),
    'span-none': () => store.setSpan(null),
    'keep-span': () => commit({ trim: span }),
    marker: keepAMarker,
    'zoom-in': () => store.zoom(1 / 1.5),
    'zoom-out': () => store.zoom(1.5),
    'show-all': () => store.showAll(),
    'show-span': () => span && store.show(span),
    height: look.toggleHeight,
    apart: look.toggleApart,
    charts: () => setCharting(true),
    keys: () => setListingKeys(true),
  };
  useCommands(keys, commands);

  return (
    <div className="flex h-full min-h-0 flex-col gap-1.5">
      <DeskHeader
        programme={programme}
        verdict={verdict}
        after={after}
        spec={spec}
        solution={limit ? null : solution}
        gainDb={gainDb}
        reduction={limit && typeof treated.limited === 'object' ? treated.limited.limited.reduction : null}
        findings={findings}
        isPreparing={treated.isPreparing}
        hasFailed={treated.hasFailed}
      >
        <Button onClick={() => setCharting(true)} aria-keyshortcuts={keys.charts} className="py-1">
          Charts
        </Button>
        <KeysDialog keys={keys} onKey={setKey} onReset={reset} isOpen={isListingKeys} onOpenChange={setListingKeys} />
      </DeskHeader>
      <ErrorNotice error={error ?? problem} onClose={problem ? clearError : undefined} />
      <TraceCard
        treated={treated}
        treatment={treatment}
        timeline={timeline}
        rateHz={rateHz}
        spec={spec}
        power={curve}
        overs={overs}
        selected={selected}
        markers={programme.markers}
        store={store}
        onOver={(place) => {
          setList('overs');
          select(place);
        }}
        audition={audition}
        look={look}
        transport={
          <Transport
            audition={{ ...audition, hear }}
            choices={heardChoices}
            store={store}
            rateHz={rateHz}
            hasSpan={span !== null}
            isEqual={isEqual}
            onEqual={setEqual}
          />
        }
        footer={
          span ? (
            <SpanBar
              span={span}
              frames={format.frames}
              rateHz={rateHz}
              timeline={timeline}
              treatedRateHz={written.sampleRateHz}
              power={curve}
              peakDbtpOf={(own) => spanPeakDbtp(own, prepared, treatment, timeline)}
              isBusy={isBusy}
              onChange={(own) => store.setSpan(own)}
              onPlay={() => audition.playFrom(span.startFrame)}
              onCodec={(codec) => {
                setLossy({ codec, span });
                hear('lossy');
                audition.setLooping(true);
                audition.playFrom(span.startFrame);
              }}
              onKeep={() => commit({ trim: span })}
              onMarker={keepAMarker}
              onHandOver={() =>
                void act(
                  () => deliverSpan(id, specId, span),
                  () => router.push(stageAddress(jobId, 'hand-over', { programme: id, spec: specId })),
                )
              }
            />
          ) : null
        }
      />
      <section
        aria-label="Rule"
        className="flex flex-col items-stretch gap-4 rounded-card border border-hair bg-sheet px-4 py-1.5 lg:flex-row"
      >
        <div className="min-w-0 grow">
          <div className="mb-1 flex items-center justify-between gap-4">
            <h2 className="text-sm font-bold">
              Rule{' '}
              <span className="ml-2 hidden font-normal text-mute xl:inline">
                {nearestText(after, spec, limit !== null)}
              </span>
            </h2>
            <span className="flex items-center gap-2">
              <StackedSpecs mainId={specId} chosen={otherSpecIds} onChange={onOthers} />
              <Choice label="Spec" compact value={specId} options={specOptions(specs)} onChange={onSpec} />
            </span>
          </div>
          <Rule
            spec={spec}
            others={others}
            source={before}
            treated={after}
            gainDb={gainDb}
            onChange={(value) => change({ gainDb: value })}
            onCommit={setGain}
          />
        </div>
        <GainPanel gainDb={gainDb} choices={choices} keys={keys} onCommit={setGain} />
      </section>
      <div className="grid min-h-54 grow gap-2 lg:grid-cols-[minmax(0,10fr)_minmax(0,10fr)_minmax(0,10fr)]">
        <TreatmentCard
          programmeId={id}
          treatment={treatment}
          state={state}
          versions={programme.versions}
          treated={treated}
          source={source}
          format={format}
          ceilingDbtp={spec.peak.ceiling}
          span={span}
          starts={starts}
          onCommit={commit}
          onStep={step}
        />
        <ReadingsTable
          before={source}
          after={after}
          verdict={verdict}
          gainDb={gainDb}
          format={format}
          layoutId={layoutId}
          sha256={sha256}
        />
        <Places
          overs={overs}
          treated={after}
          spec={spec}
          timeline={timeline}
          rateHz={rateHz}
          channelLabels={before.perChannel.map(({ label }) => label)}
          found={found}
          markers={programme.markers}
          selected={selected}
          options={
            isStopped ? (
              <OptionList offered={offered} spec={spec} levels={treatment} onChoose={commit} withKeys />
            ) : null
          }
          list={list ?? (isStopped ? 'options' : 'overs')}
          onList={setList}
          onSelect={select}
          isKnown={prepared !== null}
          onDrop={(markerId) => void act(() => dropMarker(markerId))}
          onRename={(markerId, name) => void act(() => nameMarker(markerId, name))}
        />
      </div>
      {isCharting ? (
        <Charts
          programme={programme}
          jobId={jobId}
          before={source}
          after={after}
          trace={trace}
          power={curve}
          timeline={timeline}
          specs={[spec, ...others]}
          onClose={() => setCharting(false)}
        />
      ) : null}
    </div>
  );
}

/** What a treatment makes of a programme, before anybody has said what file is made of that. */
function treatedFormat(format: AudioFormat, { resampleHz, mix }: Treatment) {
  const isMixed = format.channels === 2 && mixedChannels(mix) !== 2;
  return {
    sampleRateHz: resampleHz ?? format.sampleRateHz,
    channels: isMixed ? mixedChannels(mix) : format.channels,
    layout: isMixed ? channelLayout(mixedChannels(mix), 0).name : format.layout,
  };
}
