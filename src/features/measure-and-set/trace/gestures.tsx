'use client';

import { type KeyboardEvent, type PointerEvent, type RefObject, useEffect, useRef, useState } from 'react';
import { formatNumber, formatTime } from '@/core/units/format';
import { BINS_PER_SECOND } from '@/core/units/frames';
import { timeCodeAt } from '@/core/units/time-code';
import { type Place, placeOfOver } from '../places';
import type { Picture } from './picture';
import { type TraceStore, useTraceState } from './store';
import { frameAt, type Span, type View, xOf } from './view';

/** As near as the edge of a span is taken hold of, and as far as a drag begins one. */
const GRIP_PIXELS = 5;
const KEY_ZOOM = 1.5;

type Hold =
  | { kind: 'waiting'; startX: number; frame: number }
  | { kind: 'span'; anchor: number }
  | { kind: 'pan'; lastX: number }
  | { kind: 'pinch'; distance: number };

/** Pointer, wheel and keys over the plot. */
export function Gestures({
  store,
  picture,
  width,
  height,
  onSeek,
  onOver,
  onPoint,
  label,
  children,
}: {
  store: TraceStore;
  picture: Picture;
  width: number;
  height: number;
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
      style={{ height, touchAction: 'none' }}
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
function readoutAt({ sampleRateHz, timeline, timeCode, shortTerm, momentary }: Picture, frame: number): string {
  const bin = Math.floor(((frame - timeline.startFrame) / sampleRateHz) * BINS_PER_SECOND);
  const at = ({ values, gainDb }: Picture['shortTerm']) => (values[bin] ?? Number.NaN) + gainDb;
  const parts = [formatTime(Math.max(0, frame) / sampleRateHz, { milliseconds: true })];
  if (timeCode) parts.push(timeCodeAt(timeCode, Math.max(0, frame), sampleRateHz));
  if (Number.isFinite(at(shortTerm))) parts.push(`S ${formatNumber(at(shortTerm))}`);
  if (Number.isFinite(at(momentary))) parts.push(`M ${formatNumber(at(momentary))} LUFS`);
  return parts.join(' · ');
}
