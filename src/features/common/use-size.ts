'use client';

import { type RefObject, useLayoutEffect, useRef, useState } from 'react';

/** An element's size in whole pixels, kept up to date; 0 × 0 until it is on the page, and while it is not shown. */
export function useSize<E extends HTMLElement>(): [RefObject<E | null>, { width: number; height: number }] {
  const ref = useRef<E>(null);
  const [size, setSize] = useState({ width: 0, height: 0 });
  // Before the first paint, so that a drawing does not appear a moment after its frame.
  useLayoutEffect(() => {
    const element = ref.current;
    if (!element) return;
    const measure = () => {
      const [width, height] = [element.clientWidth, element.clientHeight];
      setSize((before) => (before.width === width && before.height === height ? before : { width, height }));
    };
    measure();
    const observer = new ResizeObserver(measure);
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  return [ref, size];
}
