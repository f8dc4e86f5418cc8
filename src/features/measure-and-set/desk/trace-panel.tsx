'use client';

import { useRouter } from 'next/navigation';
import { stageAddress } from '@/features/common/address';
import { deliverSpan, keepMarker } from '../actions';
import { Transport } from '../audition/transport';
import { SpanBar } from '../span-bar';
import { TraceCard } from '../trace/trace-card';
import { spanPeakDbtp } from '../use-overs';
import { useDesk, useDeskCommands } from './desk-context';
import { tracePanelMessages as messages } from './messages';

/** The programme along time: what is heard of it, what is looked at, and what is done with a span. */
export function TracePanel() {
  const desk = useDesk();
  const { programme, treated, treatment, timeline, rateHz, spec, overs, selected, store, span, look } = desk;
  const { audition, heardChoices, hear, isEqual, setEqual } = desk;
  const { acting, treating } = desk;
  const keepAMarker = () => {
    const { frame } = store.get();
    const at = span ?? { startFrame: Math.max(0, frame), endFrame: null };
    const name = `${span ? messages.span : messages.marker} ${programme.markers.length + 1}`;
    void acting.act(() => keepMarker(programme.id, { ...at, name }));
  };
  useTraceCommands(keepAMarker);
  return (
    <TraceCard
      treated={treated}
      treatment={treatment}
      timeline={timeline}
      rateHz={rateHz}
      spec={spec}
      power={treated.curve}
      overs={overs}
      selected={selected}
      timeCode={desk.timeCode}
      markers={programme.markers}
      store={store}
      onOver={desk.select}
      audition={audition}
      look={look}
      transport={
        <Transport
          audition={{ ...audition, hear }}
          choices={heardChoices}
          store={store}
          rateHz={rateHz}
          timeCode={desk.timeCode}
          heardHz={desk.written.sampleRateHz}
          channelLabels={treated.after.perChannel.map(({ label }) => label)}
          hasSpan={span !== null}
          isEqual={isEqual}
          onEqual={setEqual}
          hasMeters={desk.isGauge}
        />
      }
      footer={span ? <SpanFooter onMarker={keepAMarker} onKeep={() => treating.commit({ trim: span })} /> : null}
    />
  );
}

function SpanFooter({ onMarker, onKeep }: { onMarker: () => void; onKeep: () => void }) {
  const router = useRouter();
  const desk = useDesk();
  const { jobId, programme, specId, span, rateHz, timeline, written, treated, treatment, store, audition, acting } =
    desk;
  if (!span) return null;
  const { id, format } = programme;
  return (
    <SpanBar
      span={span}
      frames={format.frames}
      rateHz={rateHz}
      timeCode={desk.timeCode}
      timeline={timeline}
      treatedRateHz={written.sampleRateHz}
      power={treated.curve}
      peakDbtpOf={(own) => spanPeakDbtp(own, treated.prepared, treatment, timeline)}
      isBusy={acting.isBusy}
      onChange={(own) => store.setSpan(own)}
      onPlay={() => audition.playFrom(span.startFrame)}
      onCodec={(codec) => {
        desk.setLossy({ codec, span });
        desk.hear('lossy');
        audition.setLooping(true);
        audition.playFrom(span.startFrame);
      }}
      onKeep={onKeep}
      onMarker={onMarker}
      onHandOver={() =>
        void acting.act(
          () => deliverSpan(id, specId, span),
          () => router.push(stageAddress(jobId, 'hand-over', { programme: id, spec: specId })),
        )
      }
    />
  );
}

/** What the keys do along time. */
function useTraceCommands(keepAMarker: () => void): void {
  const { programme, treating, timeline, rateHz, store, span, look, audition, hear, otherHeard, isEqual, setEqual } =
    useDesk();
  const setEdge = (edge: 'startFrame' | 'endFrame') => {
    const { frame } = store.get();
    const whole = { startFrame: 0, endFrame: programme.format.frames };
    const nextSpan = { ...(span ?? whole), [edge]: frame };
    if (nextSpan.endFrame > nextSpan.startFrame) store.setSpan(nextSpan);
  };
  useDeskCommands({
    play: audition.toggle,
    loop: () => audition.setLooping(!audition.isLooping),
    'hear-other': () => hear(otherHeard === audition.heardId ? 'source' : otherHeard),
    equal: () => setEqual(!isEqual),
    mono: () => audition.setMono(!audition.isMono),
    removed: () => audition.setRemovedOnly(!audition.isRemovedOnly),
    clear: audition.clear,
    'first-sound': () => audition.seek(timeline.startFrame),
    'last-sound': () => audition.seek(Math.max(timeline.startFrame, timeline.endFrame - 3 * rateHz)),
    'span-start': () => setEdge('startFrame'),
    'span-end': () => setEdge('endFrame'),
    'span-none': () => store.setSpan(null),
    'keep-span': () => treating.commit({ trim: span }),
    marker: keepAMarker,
    'zoom-in': () => store.zoom(1 / 1.5),
    'zoom-out': () => store.zoom(1.5),
    'show-all': () => store.showAll(),
    'show-span': () => span && store.show(span),
    height: look.toggleHeight,
    separate: look.toggleSeparate,
  });
}
