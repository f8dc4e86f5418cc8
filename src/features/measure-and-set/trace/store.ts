import { useSyncExternalStore } from 'react';
import { broughtIn, panned, type Span, type View, within, zoomed } from './view';

export interface TraceState {
  view: View;
  /** What is marked to be read, looped or kept; null where nothing is. */
  span: Span | null;
  /** Where one is: playing begins here. In whole frames of the source. */
  frame: number;
}

/** What is looked at of a trace. It changes many times a second, so that it lies beside what React draws. */
export class TraceStore {
  #state: TraceState;
  #whole: View;
  readonly #listeners = new Set<() => void>();

  constructor(whole: View, from: Partial<TraceState> = {}) {
    this.#whole = whole;
    this.#state = { view: within(from.view ?? whole, whole), span: from.span ?? null, frame: from.frame ?? 0 };
  }

  readonly get = (): TraceState => this.#state;

  readonly subscribe = (listener: () => void): (() => void) => {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  };

  get whole(): View {
    return this.#whole;
  }

  /** All that there is to be seen; what was shown whole stays whole. */
  setWhole(whole: View): void {
    const { view } = this.#state;
    const wasWhole = view.startFrame === this.#whole.startFrame && view.endFrame === this.#whole.endFrame;
    this.#whole = whole;
    this.setView(wasWhole ? whole : view);
  }

  setView(view: View): void {
    this.#set({ view: within(view, this.#whole) });
  }

  zoom(factor: number, aroundFrame = this.#middle()): void {
    this.#set({ view: zoomed(this.#state.view, this.#whole, aroundFrame, factor) });
  }

  /** @param share of what is shown */
  pan(share: number): void {
    this.#set({ view: panned(this.#state.view, this.#whole, share) });
  }

  showAll(): void {
    this.setView(this.#whole);
  }

  /** Shows a stretch with a little around it. */
  show({ startFrame, endFrame }: View): void {
    const margin = 0.1 * (endFrame - startFrame);
    this.setView({ startFrame: startFrame - margin, endFrame: endFrame + margin });
  }

  /** Shows a place, from so near that so many frames are seen; no nearer than it is looked at already. */
  goTo(frame: number, mostFrames = Number.POSITIVE_INFINITY): void {
    const { view } = this.#state;
    const length = Math.min(mostFrames, view.endFrame - view.startFrame);
    const near = within({ startFrame: frame - length / 2, endFrame: frame + length / 2 }, this.#whole);
    const isNear = view.endFrame - view.startFrame <= mostFrames;
    this.#set({ frame: Math.round(frame), view: isNear ? broughtIn(view, this.#whole, frame) : near });
  }

  setSpan(span: Span | null): void {
    this.#set({ span });
  }

  setFrame(frame: number): void {
    const { startFrame, endFrame } = this.#whole;
    const whole = Math.round(Math.min(endFrame, Math.max(startFrame, frame)));
    this.#set({ frame: whole, view: broughtIn(this.#state.view, this.#whole, whole) });
  }

  #middle(): number {
    const { view, frame } = this.#state;
    const isSeen = frame >= view.startFrame && frame <= view.endFrame;
    return isSeen ? frame : (view.startFrame + view.endFrame) / 2;
  }

  #set(change: Partial<TraceState>): void {
    this.#state = { ...this.#state, ...change };
    for (const listener of this.#listeners) listener();
  }
}

export function useTraceState<T>(store: TraceStore, select: (state: TraceState) => T): T {
  return useSyncExternalStore(
    store.subscribe,
    () => select(store.get()),
    () => select(store.get()),
  );
}

/** Where it is played just now; null while nothing is. */
export class Playhead {
  #frame: number | null = null;
  readonly #listeners = new Set<() => void>();

  readonly get = (): number | null => this.#frame;

  readonly subscribe = (listener: () => void): (() => void) => {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  };

  set(frame: number | null): void {
    if (frame === this.#frame) return;
    this.#frame = frame;
    for (const listener of this.#listeners) listener();
  }
}
