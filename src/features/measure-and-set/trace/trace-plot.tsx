'use client';

import { type RefObject, useCallback, useEffect, useRef } from 'react';
import { useSize } from '@/features/common/use-size';
import type { Place } from '../places';
import { drawHead, drawOverview, drawPlot, drawShown } from './draw';
import { drawReductions } from './draw-reductions';
import { heightFor } from './draw-waveform';
import { Gestures } from './gestures';
import { tracePlotMessages as messages } from './messages';
import { Overview } from './overview';
import type { Look, Picture } from './picture';
import { HeightNumbers, LoudnessNumbers, TimeNumbers } from './plot-numbers';
import { OVERVIEW_HEIGHT, type PlotSize, plotSize, SIDE } from './plot-size';
import { type Playhead, type TraceStore, useTraceState } from './store';
import type { View } from './view';

/** The programme along time: plot, what the limiter takes, time, and all of it in small. */
export function TracePlot(props: {
  picture: Picture;
  look: Look;
  store: TraceStore;
  playhead: Playhead;
  onSeek: (frame: number) => void;
  /** An over was pointed at. */
  onOver: (place: Place) => void;
  label: string;
}) {
  const [frame, size] = useSize<HTMLDivElement>();
  return (
    <div ref={frame} className="min-h-0 grow select-none">
      {size.width > 2 * SIDE ? <Drawn {...props} {...plotSize(size)} /> : null}
    </div>
  );
}

function Drawn({
  picture,
  look,
  store,
  playhead,
  onSeek,
  onOver,
  label,
  width,
  plotHeight,
  laneHeight,
}: Parameters<typeof TracePlot>[0] & PlotSize) {
  const plot = useRef<HTMLCanvasElement>(null);
  const lane = useRef<HTMLCanvasElement>(null);
  const overview = useRef<HTMLCanvasElement>(null);
  const shown = useRef<HTMLCanvasElement>(null);
  const head = useRef<HTMLCanvasElement>(null);
  const pointedX = useRef<number | null>(null);
  const { colours } = look;

  const drawAll = useCallback(() => {
    const { view, span } = store.get();
    draw(plot, width, plotHeight, view, (area) => drawPlot(area, picture, look, span));
    draw(lane, width, laneHeight, view, (area) => drawReductions(area, picture, colours));
    draw(shown, width, OVERVIEW_HEIGHT, store.whole, (area) => drawShown(area, view, span, colours));
  }, [picture, look, colours, store, width, plotHeight, laneHeight]);
  // All of it changes only with what is drawn.
  useEffect(() => {
    draw(overview, width, OVERVIEW_HEIGHT, store.whole, (area) => drawOverview(area, picture, colours));
  }, [picture, colours, store, width]);
  const drawTheHead = useCallback(() => {
    const { view, frame } = store.get();
    draw(head, width, plotHeight, view, (area) => drawHead(area, playhead.get() ?? frame, pointedX.current, colours));
  }, [store, playhead, colours, width, plotHeight]);

  useOnFrame(drawAll, store.subscribe);
  useOnFrame(drawTheHead, store.subscribe, playhead.subscribe);

  const point = (x: number | null) => {
    pointedX.current = x;
    drawTheHead();
  };

  const view = useTraceState(store, (state) => state.view);
  const height = heightFor(look.height, view, width);
  return (
    <div className="grid" style={{ gridTemplateColumns: `${SIDE}px ${width}px ${SIDE}px` }}>
      <LoudnessNumbers plotHeight={plotHeight} />
      <Gestures
        store={store}
        picture={picture}
        width={width}
        height={plotHeight}
        onSeek={onSeek}
        onOver={onOver}
        onPoint={point}
        label={label}
      >
        <canvas ref={plot} style={{ width, height: plotHeight }} className="absolute rounded-sm" />
        <canvas ref={head} style={{ width, height: plotHeight }} className="pointer-events-none absolute" />
      </Gestures>
      <HeightNumbers plotHeight={plotHeight} height={height} lanes={look.isSeparate ? picture.source.channels : 1} />
      <span
        className="pt-1 pr-1 text-right font-mono text-[10px] leading-3 text-mute"
        title={messages.gainReductionHint}
      >
        {messages.gainReduction}
      </span>
      <canvas ref={lane} style={{ width, height: laneHeight }} className="mt-0.5" aria-hidden />
      <span />
      <span />
      <TimeNumbers view={view} sampleRateHz={picture.sampleRateHz} width={width} timeCode={picture.timeCode} />
      <span />
      <span />
      <Overview canvas={overview} shown={shown} store={store} width={width} />
      <span />
    </div>
  );
}

function draw(
  ref: RefObject<HTMLCanvasElement | null>,
  width: number,
  height: number,
  view: View,
  work: (area: { context: CanvasRenderingContext2D; view: View; width: number; height: number }) => void,
): void {
  const canvas = ref.current;
  const context = canvas?.getContext('2d');
  if (!canvas || !context) return;
  const ratio = window.devicePixelRatio || 1;
  const [wide, high] = [Math.round(width * ratio), Math.round(height * ratio)];
  if (canvas.width !== wide || canvas.height !== high) {
    canvas.width = wide;
    canvas.height = high;
  }
  context.setTransform(ratio, 0, 0, ratio, 0, 0);
  work({ context, view, width, height });
}

/** Draws once now, and once a screen frame for whatever has changed meanwhile. */
function useOnFrame(work: () => void, ...subscriptions: ((listener: () => void) => () => void)[]): void {
  const [first, second] = subscriptions;
  useEffect(() => {
    let request = 0;
    const ask = () => {
      if (request === 0)
        request = requestAnimationFrame(() => {
          request = 0;
          work();
        });
    };
    work();
    const leave = [first, second].map((subscribe) => subscribe?.(ask));
    return () => {
      cancelAnimationFrame(request);
      for (const unsubscribe of leave) unsubscribe?.();
    };
  }, [work, first, second]);
}
