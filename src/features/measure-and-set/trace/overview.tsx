'use client';

import { type PointerEvent, type RefObject, useRef } from 'react';
import { OVERVIEW_HEIGHT } from './plot-size';
import type { TraceStore } from './store';
import { frameAt } from './view';

/** All of the programme: what is shown of it is dragged to another place. */
export function Overview({
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
