import { useCallback, useMemo, useState } from 'react';
import { treatedFacts } from '@/core/delivery/facts';
import { channelLayout } from '@/core/loudness/channel-layout';
import { assess } from '@/core/spec/assess';
import { timelineOf } from '@/core/treatment/timeline';
import { treatedChannels } from '@/core/treatment/treated-channels';
import type { StepName, Treatment } from '@/core/treatment/treatment';
import { useChanged } from '@/features/common/data/use-changed';
import type { GaugeScale } from '@/features/common/gauge/gauge-scale';
import { useSpec, useSpecs } from '@/features/common/specs';
import { noteHeard } from '@/features/common/treatment-actions';
import { useAct } from '@/features/common/use-act';
import { useTreated } from '@/features/common/use-treated';
import type { AudioFormat } from '@/formats/audio-format';
import type { ProgrammeView } from '@/server/jobs/programme-view';
import type { AnalysisView } from '../analysis/views';
import { useAudition } from '../audition/use-audition';
import { type LossySpan, useHeardChoices } from '../audition/use-heard-choices';
import { useKeyMap } from '../commands';
import type { PlaceList } from '../place-lists';
import type { Place } from '../places';
import { useTraceState } from '../trace/store';
import { useLook } from '../trace/use-look';
import { useOptions } from '../use-options';
import { useOvers } from '../use-overs';
import { useSourceTimes } from '../use-source-times';
import { useTraceStore } from '../use-trace-store';
import { useTreatment } from '../use-treatment';
import { type KeptDesk, keepDesk } from './kept-desk';
import type { Preset } from './layouts';

/** A place is shown with so much around it, at most. */
const NEAR_SECONDS = 8;

/** Views of the sound beside the trace, in the order in which they were opened. */
interface Analysis {
  isShown: boolean;
  open: AnalysisView[];
}

/** What a desk is for. */
export interface DeskGiven {
  jobId: string;
  programme: ProgrammeView;
  measured: NonNullable<ProgrammeView['measured']>;
  specId: string;
  /** Specs that are stacked over it. */
  otherSpecIds: readonly string[];
  /** How the desk was last left. */
  kept: KeptDesk;
  /** A step whose controls are open at first. */
  firstStep: StepName | undefined;
  onSpec: (specId: string) => void;
  onOthers: (specIds: readonly string[]) => void;
}

/** All that the panels of a desk share: the programme, its treatment and what that makes of it, what is heard and looked at. */
export function useDeskState(given: DeskGiven) {
  const { programme, measured, specId, otherSpecIds } = given;
  const { id, format } = programme;
  const specs = useSpecs();
  const spec = useSpec(specId);
  const others = useMemo(
    () => specs.filter(({ id: own }) => own !== specId && otherSpecIds.includes(own)),
    [specs, otherSpecIds, specId],
  );
  const changed = useChanged();
  const acting = useAct(changed);
  const treating = useTreatment(id, programme);
  const { treatment, state, commit, flush } = treating;
  const treated = useTreated(programme, measured, treatment);
  const timeline = useMemo(() => timelineOf(treatment, format), [treatment, format]);
  const store = useTraceStore(format, timeline);
  const span = useTraceState(store, (own) => own.span);
  const written = treatedFormat(format, treatment);
  const verdict = assess(
    spec,
    treatedFacts({
      ...written,
      readings: treated.after,
      treatment,
      source: format,
      tags: programme.tags,
      edges: treated.edges,
      frames: Math.round((timeline.endFrame - timeline.startFrame) * timeline.ratio),
    }),
  );
  const overs = useOvers(treated.prepared, treatment, spec.peak.ceiling);
  const options = useOptions(treated, spec, treatment.limit);
  const setGain = useCallback((gainDb: number) => commit({ gainDb }), [commit]);
  const hearing = useHearing(given, { treating, treated, timeline, store, span, written, changed, flush });
  const [selected, setSelected] = useState<Place>();
  const [arrangement, setArrangement] = useState<Preset | 'own'>('own');
  /** The step whose controls are open. */
  const [openStep, setOpenStep] = useState<StepName | undefined>(given.firstStep);
  /** Which list of places was chosen; undefined until one is. */
  const [placeList, setPlaceList] = useState<PlaceList>();
  const rateHz = format.sampleRateHz;
  const select = (place: Place | undefined) => {
    setSelected(place);
    if (!place) return;
    store.goTo(place.frame, Math.max(place.frames * 2, NEAR_SECONDS * rateHz));
    hearing.audition.seek(place.frame);
  };
  return {
    ...given,
    specs,
    spec,
    others,
    acting,
    treating,
    treatment,
    state,
    treated,
    timeline,
    store,
    span,
    written,
    verdict,
    overs,
    options,
    setGain,
    ...hearing,
    selected,
    select,
    rateHz,
    ...useSourceTimes(programme),
    keyMap: useKeyMap(),
    look: useLook(),
    arrangement,
    setArrangement,
    openStep,
    setOpenStep,
    placeList,
    setPlaceList,
    ...useShown(given.kept),
  };
}

/** What the desk shows beside its rule and its trace, as it was last left. */
function useShown(kept: KeptDesk) {
  const [isGauge, showGauge] = useState(kept.hasMeters ?? false);
  const [gaugeScale, showScale] = useState<GaugeScale>(kept.scale ?? 'absolute');
  const [analysis, showAnalysis] = useState<Analysis>(kept.analysis ?? { isShown: false, open: ['spectrum'] });
  return {
    isGauge,
    setGauge: (hasMeters: boolean) => {
      showGauge(hasMeters);
      keepDesk({ hasMeters });
    },
    gaugeScale,
    setGaugeScale: (scale: GaugeScale) => {
      showScale(scale);
      keepDesk({ scale });
    },
    analysis,
    setAnalysis: (next: Analysis) => {
      showAnalysis(next);
      keepDesk({ analysis: next });
    },
  };
}

/** What is listened to: the choices, the one that is heard, and the one before. */
function useHearing(
  { programme, measured }: DeskGiven,
  desk: {
    treating: ReturnType<typeof useTreatment>;
    treated: ReturnType<typeof useTreated>;
    timeline: ReturnType<typeof timelineOf>;
    store: ReturnType<typeof useTraceStore>;
    span: Parameters<typeof useAudition>[0]['span'];
    written: ReturnType<typeof treatedFormat>;
    changed: () => Promise<void>;
    flush: () => void;
  },
) {
  const { id, format } = programme;
  const { treating, treated, timeline, store, span, written, changed, flush } = desk;
  const { treatment, state } = treating;
  const [isEqual, setEqual] = useState(true);
  const [lossy, setLossy] = useState<LossySpan | null>(null);
  const heardChoices = useHeardChoices(programme, measured.readings, treatment, treated, isEqual, lossy);
  const onHeard = useCallback(() => {
    flush();
    if (state.version > 0) void noteHeard(id, state.version).then(changed, () => undefined);
  }, [flush, state.version, id, changed]);
  const audition = useAudition({
    rateHz: written.sampleRateHz,
    channels: format.channels,
    ratio: timeline.ratio,
    choices: heardChoices,
    store,
    span,
    onHeard,
  });
  const [otherHeard, setOtherHeard] = useState('source');
  const hear = (heardId: string) => {
    setOtherHeard(audition.heardId);
    audition.hear(heardId);
  };
  return { audition, heardChoices, hear, otherHeard, isEqual, setEqual, setLossy };
}

/** What a treatment makes of a programme, before anybody has said what file is made of that. */
function treatedFormat(format: AudioFormat, treatment: Treatment) {
  const channels = treatedChannels(treatment, format.channels);
  return {
    sampleRateHz: treatment.resampleHz ?? format.sampleRateHz,
    channels,
    layout: channels === format.channels ? format.layout : channelLayout(channels, 0).name,
  };
}
