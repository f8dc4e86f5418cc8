'use client';

import { memo, type ReactNode, useEffect, useMemo, useSyncExternalStore } from 'react';
import { integratedCurve, loudnessCurve, MOMENTARY_BINS, SHORT_TERM_BINS } from '@/core/loudness/series';
import type { Over } from '@/core/peak/overs';
import type { Spec } from '@/core/spec/spec';
import type { Timeline } from '@/core/treatment/timeline';
import { NO_PREPARATION, type Treatment } from '@/core/treatment/treatment';
import { formatNumber, formatTime } from '@/core/units/format';
import { BINS_PER_SECOND } from '@/core/units/frames';
import type { StartTimeCode } from '@/core/units/time-code';
import type { Trace } from '@/features/common/use-trace';
import type { Treated } from '@/features/common/use-treated';
import type { MarkerView } from '@/server/jobs/programme-view';
import { Switch } from '@/ui/segments';
import type { Audition } from '../audition/use-audition';
import type { Place } from '../places';
import { traceCardMessages as messages } from './messages';
import type { Curve, Look, Picture } from './picture';
import type { TraceStore } from './store';
import { WaveformTiles } from './tiles';
import { TracePlot } from './trace-plot';
import { useFineReduction } from './use-fine-reduction';
import type { useLook } from './use-look';

interface TraceCardProps {
  treated: Treated;
  treatment: Treatment;
  timeline: Timeline;
  /** Of the source. */
  rateHz: number;
  spec: Spec;
  /** Weighted power of the treated programme, and the gain behind it; null until it is known. */
  power: Curve | null;
  overs: readonly Over[];
  selected: Place | undefined;
  /** Null where the file states none. */
  timeCode: StartTimeCode | null;
  markers: readonly MarkerView[];
  store: TraceStore;
  onOver: (place: Place) => void;
  audition: Audition;
  look: ReturnType<typeof useLook>;
}

/** The programme along time, as it came and as it will sound, with what plays it. */
export function TraceCard({
  transport,
  footer,
  ...props
}: TraceCardProps & { transport: ReactNode; footer: ReactNode }) {
  const { treated, look } = props;
  return (
    <section
      aria-label={messages.trace}
      data-tour="trace"
      className="flex h-full min-h-0 min-w-0 flex-col rounded-card border border-hair bg-sheet px-4 pt-2 pb-1.5"
    >
      {transport}
      {treated.trace === 'failed' ? (
        <Waiting role="alert">{messages.notFetched}</Waiting>
      ) : treated.trace && look.look ? (
        <TraceArea {...props} trace={treated.trace} drawn={look.look} />
      ) : (
        <Waiting>{messages.drawing}</Waiting>
      )}
      <div className="flex min-h-6 items-center">
        <div className="min-w-0 grow">
          {footer ?? <Legend look={look} isLimited={props.treatment.limit !== null} />}
        </div>
      </div>
    </section>
  );
}

function Waiting({ role, children }: { role?: 'alert'; children: ReactNode }) {
  return (
    <p role={role} className="grid min-h-0 grow place-items-center text-sm text-mute">
      {children}
    </p>
  );
}

function TraceArea({
  trace,
  drawn,
  treated,
  treatment,
  timeline,
  rateHz,
  spec,
  power,
  overs,
  selected,
  timeCode,
  markers,
  store,
  onOver,
  audition,
}: TraceCardProps & { trace: Trace; drawn: Look }) {
  const tiles = useTiles(treated, trace);
  const before = power?.values ?? trace.weightedPower;
  const curves = useMemo(
    () => ({
      shortTerm: loudnessCurve(before, SHORT_TERM_BINS),
      momentary: loudnessCurve(before, MOMENTARY_BINS),
      integrated: integratedCurve(before),
    }),
    [before],
  );
  const gainDb = power?.gainDb ?? 0;
  const reductionsDb =
    treatment.limit && typeof treated.limited === 'object' ? treated.limited.limited.reductionsDb : null;
  const fineReduction = useFineReduction(treated.source, treatment, timeline, rateHz, store);
  const { source, treated: after, tilesLoaded } = tiles;
  const picture = useMemo(
    (): Picture => ({
      sampleRateHz: rateHz,
      timeline,
      treatment,
      spec,
      overs,
      selected,
      timeCode,
      markers,
      reductionsDb,
      fineReduction,
      source,
      treated: after,
      tilesLoaded,
      shortTermBefore: { values: trace.shortTerm, gainDb: 0 },
      shortTerm: { values: curves.shortTerm, gainDb },
      momentary: { values: curves.momentary, gainDb },
      integrated: { values: curves.integrated, gainDb },
    }),
    [
      rateHz,
      timeline,
      treatment,
      spec,
      overs,
      selected,
      timeCode,
      markers,
      reductionsDb,
      fineReduction,
      source,
      after,
      trace,
      curves,
      gainDb,
      tilesLoaded,
    ],
  );
  const seconds = trace.meta.frames / rateHz;
  return (
    <>
      <TracePlot
        picture={picture}
        look={drawn}
        store={store}
        playhead={audition.playhead}
        onSeek={audition.seek}
        onOver={onOver}
        label={messages.position(formatTime(seconds), overs.length)}
      />
      <TraceTable curves={curves} gainDb={gainDb} />
    </>
  );
}

/** The tiles of the source, and of what is treated of it; each is drawn when it is there. */
function useTiles({ source, preparation, prepared }: Treated, trace: Trace) {
  const own = useMemo(() => new WaveformTiles(source, NO_PREPARATION, wholeOf(trace)), [source, trace]);
  const treated = useMemo(
    () => (prepared && prepared !== trace ? new WaveformTiles(source, preparation, wholeOf(prepared)) : own),
    [source, preparation, prepared, trace, own],
  );
  useEffect(() => () => own.stop(), [own]);
  useEffect(() => () => treated.stop(), [treated]);
  return { source: own, treated, tilesLoaded: useTilesLoaded(own) + useTilesLoaded(treated) };
}

function useTilesLoaded(tiles: WaveformTiles): number {
  return useSyncExternalStore(
    tiles.subscribe,
    () => tiles.loaded,
    () => 0,
  );
}

function wholeOf({ meta, waveforms }: Trace) {
  return { frames: meta.frames, waveforms };
}

/**
 * What the trace shows, for those who do not see it: the loudest of some sixty parts. It changes with the sound only, and
 * not with every tile that comes.
 */
const TraceTable = memo(function TraceTable({
  curves,
  gainDb,
}: {
  curves: { shortTerm: Float32Array; momentary: Float32Array };
  gainDb: number;
}) {
  const { shortTerm, momentary } = curves;
  const stride = Math.max(10, Math.ceil(shortTerm.length / 60));
  const parts = Array.from({ length: Math.ceil(shortTerm.length / stride) }, (_, i) => i * stride);
  const most = (values: Float32Array, start: number) => {
    const finite = values.subarray(start, start + stride).filter(Number.isFinite);
    return finite.length === 0 ? '◌' : formatNumber(Math.max(...finite) + gainDb);
  };
  return (
    <table className="sr-only">
      <caption>{messages.tableCaption}</caption>
      <thead>
        <tr>
          <th scope="col">{messages.from}</th>
          <th scope="col">{messages.shortTermMax}</th>
          <th scope="col">{messages.momentaryMax}</th>
        </tr>
      </thead>
      <tbody>
        {parts.map((start) => (
          <tr key={start}>
            <th scope="row">{formatTime(start / BINS_PER_SECOND)}</th>
            <td>{most(shortTerm, start)}</td>
            <td>{most(momentary, start)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
});

function Legend({ look, isLimited }: { look: ReturnType<typeof useLook>; isLimited: boolean }) {
  const swatch = (className: string, text: string) => (
    <span className="flex items-center gap-1">
      <i className={`inline-block ${className}`} /> {text}
    </span>
  );
  return (
    <div className="flex flex-wrap items-center gap-x-2.5 text-[11px] leading-5 text-mute">
      {swatch('w-3 h-2.5 rounded-xs border border-stock-3 bg-stock-2', 'after')}
      {swatch('w-3 h-2.5 rounded-xs border border-dashed border-mute', 'before')}
      {swatch('w-3 h-0.5 bg-slide-ink', 'short-term')}
      {swatch('w-3 h-px bg-slide-2', 'momentary')}
      {swatch('w-4 border-t-2 border-dashed border-stock-ink', messages.integratedSoFar)}
      {swatch('w-3 h-1.5 border-y border-stock-ink bg-stock-3/40', 'target')}
      {isLimited
        ? swatch('w-3 h-2.5 rounded-xs border border-breach-line bg-breach-1', messages.gainReduction)
        : swatch('w-3 h-2.5 rounded-xs bg-breach-line', 'over')}
      <span className="ml-auto flex gap-1">
        <Switch
          compact
          label={messages.heightByDecibels}
          hint={messages.heightHint}
          isOn={look.height === 'decibels'}
          onChange={look.toggleHeight}
        >
          {messages.decibels}
        </Switch>
        <Switch
          compact
          label={messages.separateChannels}
          hint={messages.separateHint}
          isOn={look.isSeparate}
          onChange={look.toggleSeparate}
        >
          {messages.separate}
        </Switch>
      </span>
    </div>
  );
}
