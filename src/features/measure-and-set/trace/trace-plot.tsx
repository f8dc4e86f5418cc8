'use client';

import { type KeyboardEvent, type PointerEvent, type RefObject, useCallback, useEffect, useRef, useState } from 'react';
import { formatNumber, formatTime } from '@/core/units/format';
import { BINS_PER_SECOND } from '@/core/units/frames';
import { type Place, placeOfOver } from '../places';
import { useWidth } from '../use-width';
import { drawHead, drawOverview, drawPlot, drawShown } from './draw';
import { drawReductions } from './draw-reductions';
import { heightFor } from './draw-waveform';
import type { Look, Picture } from './picture';
import { BOTTOM_LUFS, type Height, heightMarks, heightOf, LOUDNESS_MARKS, loudnessDepth, TOP_LUFS } from './scales';
import { type Playhead, type TraceStore, useTraceState } from './store';
import { frameAt, type Span, timeTicks, type View, xOf } from './view';

const PLOT_HEIGHT = 122;
const LANE_HEIGHT = 18;
const AXIS_HEIGHT = 15;
const OVERVIEW_HEIGHT = 18;
/** Room beside the plot for its numbers. */
const SIDE = 34;
/** All of it, with what a limiter takes. */
export const TRACE_HEIGHT = PLOT_HEIGHT + LANE_HEIGHT + AXIS_HEIGHT + OVERVIEW_HEIGHT + 6;
/** As near as the edge of a span is taken hold of, and as far as a drag begins one. */
const GRIP_PIXELS = 5;
const KEY_ZOOM = 1.5;

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
  const [frame, width] = useWidth<HTMLDivElement>();
  return (
    <div ref={frame} style={{ height: TRACE_HEIGHT }} className="select-none">
      {width > 2 * SIDE ? <Drawn {...props} width={width - 2 * SIDE} /> : null}
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
}: Parameters<typeof TracePlot>[0] & { width: number }) {
  const plot = useRef<HTMLCanvasElement>(null);
  const lane = useRef<HTMLCanvasElement>(null);
  const overview = useRef<HTMLCanvasElement>(null);
  const shown = useRef<HTMLCanvasElement>(null);
  const head = useRef<HTMLCanvasElement>(null);
  const pointedX = useRef<number | null>(null);
  const { colours } = look;

  const drawAll = useCallback(() => {
    const { view, span } = store.get();
    draw(plot, width, PLOT_HEIGHT, view, (area) => drawPlot(area, picture, look, span));
    draw(lane, width, LANE_HEIGHT, view, (area) => drawReductions(area, picture, colours));
    draw(shown, width, OVERVIEW_HEIGHT, store.whole, (area) => drawShown(area, view, span, colours));
  }, [picture, look, colours, store, width]);
  // All of it changes only with what is drawn.
  useEffect(() => {
    draw(overview, width, OVERVIEW_HEIGHT, store.whole, (area) => drawOverview(area, picture, colours));
  }, [picture, colours, store, width]);
  const drawTheHead = useCallback(() => {
    const { view, frame } = store.get();
    draw(head, width, PLOT_HEIGHT, view, (area) => drawHead(area, playhead.get() ?? frame, pointedX.current, colours));
  }, [store, playhead, colours, width]);

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
      <LoudnessNumbers />
      <Gestures
        store={store}
        picture={picture}
        width={width}
        onSeek={onSeek}
        onOver={onOver}
        onPoint={point}
        label={label}
      >
        <canvas ref={plot} style={{ width, height: PLOT_HEIGHT }} className="absolute rounded-sm" />
        <canvas ref={head} style={{ width, height: PLOT_HEIGHT }} className="pointer-events-none absolute" />
      </Gestures>
      <HeightNumbers height={height} lanes={look.isApart ? picture.source.channels : 1} />
      <span className="pt-1 pr-1 text-right font-mono text-[10px] text-mute" title="gain reduction, down to −9 dB">
        GR
      </span>
      <canvas ref={lane} style={{ width, height: LANE_HEIGHT }} className="mt-0.5" aria-hidden />
      <span />
      <span />
      <TimeNumbers view={view} sampleRateHz={picture.sampleRateHz} width={width} />
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

type Hold =
  | { kind: 'waiting'; startX: number; frame: number }
  | { kind: 'span'; anchor: number }
  | { kind: 'pan'; lastX: number }
  | { kind: 'pinch'; distance: number };

/** Pointer, wheel and keys over the plot. */
function Gestures({
  store,
  picture,
  width,
  onSeek,
  onOver,
  onPoint,
  label,
  children,
}: {
  store: TraceStore;
  picture: Picture;
  width: number;
  onSeek: (frame: number) => void;
  onOver: (place: Place) => void;
  onPoint: (x: number | null) => void;
  label: string;
  children: React.ReactNode;
}) {
  const element = useRef<HTMLDivElement>(null);
  const hold = useRef<Hold>(undefined);
  const pointers = useRef(new Map<number, number>());
  const [readout, setReadout] = useState<{ x: number; text: string }>();

  useWheel(element, store, width);

  const xIn = (event: { clientX: number }) => event.clientX - (element.current?.getBoundingClientRect().left ?? 0);
  const frameIn = (x: number) => {
    const { startFrame, endFrame } = store.whole;
    return Math.round(Math.min(endFrame, Math.max(startFrame, frameAt(store.get().view, width, x))));
  };

  const take = (event: PointerEvent<HTMLDivElement>) => {
    if (event.button > 1) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    const x = xIn(event);
    pointers.current.set(event.pointerId, x);
    if (pointers.current.size === 2) hold.current = { kind: 'pinch', distance: spread(pointers.current) };
    else if (event.button === 1 || event.altKey) hold.current = { kind: 'pan', lastX: x };
    else {
      const { span, view } = store.get();
      const grip = span && gripAt(span, view, width, x);
      hold.current = grip ? { kind: 'span', anchor: grip.other } : { kind: 'waiting', startX: x, frame: frameIn(x) };
    }
  };
  const move = (event: PointerEvent<HTMLDivElement>) => {
    const x = xIn(event);
    setReadout({ x, text: readoutAt(picture, frameIn(x)) });
    onPoint(x);
    const held = hold.current;
    if (!held) return;
    if (pointers.current.has(event.pointerId)) pointers.current.set(event.pointerId, x);
    switch (held.kind) {
      case 'waiting':
        if (Math.abs(x - held.startX) < GRIP_PIXELS) return;
        hold.current = { kind: 'span', anchor: held.frame };
        return store.setSpan(spanOf(held.frame, frameIn(x)));
      case 'span':
        return store.setSpan(spanOf(held.anchor, frameIn(x)));
      case 'pan':
        store.pan((held.lastX - x) / width);
        held.lastX = x;
        return;
      case 'pinch': {
        const distance = spread(pointers.current);
        const middle = [...pointers.current.values()].reduce((sum, own) => sum + own, 0) / 2;
        store.zoom(held.distance / Math.max(1, distance), frameAt(store.get().view, width, middle));
        held.distance = distance;
      }
    }
  };
  const letGo = (event: PointerEvent<HTMLDivElement>) => {
    pointers.current.delete(event.pointerId);
    if (hold.current?.kind === 'waiting') {
      const over = overAt(picture, store.get().view, width, hold.current.startX);
      if (over) onOver(over);
      else onSeek(hold.current.frame);
    }
    hold.current = undefined;
  };
  const press = (event: KeyboardEvent<HTMLDivElement>) => {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    const { view, frame } = store.get();
    const step = Math.max(1, Math.round(((view.endFrame - view.startFrame) / width) * (event.shiftKey ? 20 : 2)));
    switch (event.key) {
      case 'ArrowLeft':
        onSeek(frame - step);
        break;
      case 'ArrowRight':
        onSeek(frame + step);
        break;
      case 'ArrowUp':
      case '+':
        store.zoom(1 / KEY_ZOOM);
        break;
      case 'ArrowDown':
      case '-':
        store.zoom(KEY_ZOOM);
        break;
      case 'PageUp':
        store.pan(-0.8);
        break;
      case 'PageDown':
        store.pan(0.8);
        break;
      case 'Home':
        onSeek(Math.max(0, picture.timeline.startFrame));
        break;
      case 'End':
        onSeek(picture.timeline.endFrame);
        break;
      case 'Escape':
        store.setSpan(null);
        break;
      default:
        return;
    }
    event.preventDefault();
    event.stopPropagation();
  };

  const frame = useTraceState(store, (state) => state.frame);
  const seconds = frame / picture.sampleRateHz;
  return (
    <div
      ref={element}
      role="slider"
      aria-label={label}
      aria-valuemin={0}
      aria-valuemax={Math.round(picture.source.frames / picture.sampleRateHz)}
      aria-valuenow={Math.round(seconds)}
      aria-valuetext={formatTime(Math.max(0, seconds), { milliseconds: true })}
      tabIndex={0}
      className="relative cursor-crosshair"
      style={{ height: PLOT_HEIGHT, touchAction: 'none' }}
      onPointerDown={take}
      onPointerMove={move}
      onPointerUp={letGo}
      onPointerCancel={letGo}
      onPointerLeave={() => {
        setReadout(undefined);
        onPoint(null);
      }}
      onKeyDown={press}
    >
      {children}
      {readout ? (
        <span
          className="pointer-events-none absolute bottom-1 rounded-sm bg-sheet/85 px-1 font-mono text-[11px] whitespace-nowrap"
          style={readout.x < width / 2 ? { left: readout.x + 6 } : { right: width - readout.x + 6 }}
        >
          {readout.text}
        </span>
      ) : null}
    </div>
  );
}

/** Not by React's own handler, which the browser does not let prevent the page from scrolling. */
function useWheel(element: RefObject<HTMLDivElement | null>, store: TraceStore, width: number): void {
  useEffect(() => {
    const target = element.current;
    if (!target) return;
    const roll = (event: WheelEvent) => {
      event.preventDefault();
      const unit = event.deltaMode === WheelEvent.DOM_DELTA_LINE ? 16 : 1;
      const isAlong = event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY);
      if (isAlong) {
        store.pan(((event.deltaX || event.deltaY) * unit) / width);
        return;
      }
      const x = event.clientX - target.getBoundingClientRect().left;
      store.zoom(Math.exp(event.deltaY * unit * (event.ctrlKey ? 0.01 : 0.0022)), frameAt(store.get().view, width, x));
    };
    target.addEventListener('wheel', roll, { passive: false });
    return () => target.removeEventListener('wheel', roll);
  }, [element, store, width]);
}

function spread(pointers: ReadonlyMap<number, number>): number {
  const [first = 0, second = 0] = [...pointers.values()];
  return Math.abs(first - second);
}

function spanOf(a: number, b: number): Span | null {
  return a === b ? null : { startFrame: Math.min(a, b), endFrame: Math.max(a, b) };
}

function gripAt(span: Span, view: View, width: number, x: number): { other: number } | null {
  if (Math.abs(xOf(view, width, span.startFrame) - x) <= GRIP_PIXELS) return { other: span.endFrame };
  if (Math.abs(xOf(view, width, span.endFrame) - x) <= GRIP_PIXELS) return { other: span.startFrame };
  return null;
}

/** The over whose mark is pointed at. */
function overAt({ overs, timeline }: Picture, view: View, width: number, x: number): Place | undefined {
  return overs
    .map((over) => placeOfOver(over, timeline))
    .find(({ frame }) => Math.abs(xOf(view, width, frame) - x) <= GRIP_PIXELS);
}

/** What is under the pointer: when, and how loud. */
function readoutAt({ sampleRateHz, timeline, shortTerm, momentary }: Picture, frame: number): string {
  const bin = Math.floor(((frame - timeline.startFrame) / sampleRateHz) * BINS_PER_SECOND);
  const at = ({ values, gainDb }: Picture['shortTerm']) => (values[bin] ?? Number.NaN) + gainDb;
  const parts = [formatTime(Math.max(0, frame) / sampleRateHz, { milliseconds: true })];
  if (Number.isFinite(at(shortTerm))) parts.push(`S ${formatNumber(at(shortTerm))}`);
  if (Number.isFinite(at(momentary))) parts.push(`M ${formatNumber(at(momentary))} LUFS`);
  return parts.join(' · ');
}

function LoudnessNumbers() {
  return (
    <span aria-hidden className="relative font-mono text-[10px] text-mute" style={{ height: PLOT_HEIGHT }}>
      {LOUDNESS_MARKS.filter((lufs) => lufs < TOP_LUFS && lufs > BOTTOM_LUFS).map((lufs) => (
        <i
          key={lufs}
          className="absolute right-1.5 -translate-y-1/2 not-italic"
          style={{ top: loudnessDepth(lufs) * PLOT_HEIGHT }}
        >
          {formatNumber(lufs, 0)}
        </i>
      ))}
    </span>
  );
}

/** Of the first lane, from its edge to its middle. */
function HeightNumbers({ height, lanes }: { height: Height; lanes: number }) {
  const half = PLOT_HEIGHT / lanes / 2;
  const marks = lanes > 1 ? heightMarks(height).slice(0, 1) : heightMarks(height);
  return (
    <span aria-hidden className="relative font-mono text-[10px] text-mute" style={{ height: PLOT_HEIGHT }}>
      {marks.map((db) => (
        <i
          key={db}
          className="absolute left-1.5 -translate-y-1/2 not-italic"
          style={{ top: half * (1 - heightOf(10 ** (db / 20), height)) }}
        >
          {formatNumber(db, 0)}
        </i>
      ))}
    </span>
  );
}

function TimeNumbers({ view, sampleRateHz, width }: { view: View; sampleRateHz: number; width: number }) {
  return (
    <span aria-hidden className="relative font-mono text-[10px] text-mute" style={{ height: AXIS_HEIGHT }}>
      {timeTicks(view, sampleRateHz, width).map(({ frame, text }) => {
        const x = xOf(view, width, frame);
        const shift = x < 20 ? '' : x > width - 24 ? '-translate-x-full' : '-translate-x-1/2';
        return (
          <i key={frame} className={`absolute not-italic ${shift}`} style={{ left: x }}>
            {text}
          </i>
        );
      })}
    </span>
  );
}

/** All of the programme: what is shown of it is dragged to another place. */
function Overview({
  canvas,
  shown,
  store,
  width,
}: {
  canvas: RefObject<HTMLCanvasElement | null>;
  shown: RefObject<HTMLCanvasElement | null>;
  store: TraceStore;
  width: number;
}) {
  const isHeld = useRef(false);
  const show = (event: PointerEvent<HTMLCanvasElement>) => {
    if (!isHeld.current) return;
    const x = event.clientX - event.currentTarget.getBoundingClientRect().left;
    const frame = frameAt(store.whole, width, x);
    const { view } = store.get();
    const half = (view.endFrame - view.startFrame) / 2;
    store.setView({ startFrame: frame - half, endFrame: frame + half });
  };
  const size = { width, height: OVERVIEW_HEIGHT };
  return (
    <div aria-hidden className="relative mt-1" style={size}>
      <canvas ref={canvas} style={size} className="absolute" />
      <canvas
        ref={shown}
        style={{ ...size, touchAction: 'none' }}
        className="absolute cursor-grab"
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId);
          isHeld.current = true;
          show(event);
        }}
        onPointerMove={show}
        onPointerUp={() => {
          isHeld.current = false;
        }}
      />
    </div>
  );
}
