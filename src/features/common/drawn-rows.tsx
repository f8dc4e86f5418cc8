'use client';

import { defaultRangeExtractor, type ScrollToOptions, useVirtualizer } from '@tanstack/react-virtual';
import { type RefObject, useLayoutEffect, useState } from 'react';

/** Before anything is measured: as much as most screens show. */
const FIRST_VIEW = { width: 1280, height: 1400 };
/** So many are drawn above and below what is seen. */
const OVERSCAN = 8;
const NONE: readonly number[] = [];

/** Rows of a long table that are drawn: those that are looked at, and what is kept besides. */
export interface DrawnRows {
  /** In order, each with the height in pixels of the rows ahead of it that are not drawn. */
  rows: readonly { index: number; gap: number }[];
  /** Height of those behind the last. */
  rest: number;
  /** Takes a row as it is drawn, with its index as `data-index`, for its height. */
  measure: (row: HTMLElement | null) => void;
  show: (index: number, options?: ScrollToOptions) => void;
}

/**
 * Of a table that scrolls with the page's `main`, the rows that are drawn.
 *
 * @param height about as high as most rows are, in pixels; each is measured once it is drawn
 * @param kept indices of rows that stay, wherever one has scrolled to
 */
export function useDrawnRows(
  table: RefObject<HTMLTableElement | null>,
  { count, height, kept = NONE }: { count: number; height: number; kept?: readonly number[] },
): DrawnRows {
  const [scrollMargin, setScrollMargin] = useState(0);
  const virtualizer = useVirtualizer({
    count,
    getScrollElement: () => scrollerOf(table.current),
    estimateSize: () => height,
    initialRect: FIRST_VIEW,
    overscan: OVERSCAN,
    scrollMargin,
    getItemKey: (index) => index,
    rangeExtractor: (range) => {
      const seen = defaultRangeExtractor(range);
      const others = kept.filter((index) => index >= 0 && index < count && !seen.includes(index));
      return others.length === 0 ? seen : [...seen, ...others].sort((a, b) => a - b);
    },
  });
  const { isScrolling } = virtualizer;
  // What stands above the rows comes and goes; while one scrolls, to look would have the page laid out twice.
  useLayoutEffect(() => {
    if (isScrolling) return;
    const scroller = scrollerOf(table.current);
    const body = table.current?.tBodies[0];
    if (!scroller || !body) return;
    const top = body.getBoundingClientRect().top - scroller.getBoundingClientRect().top + scroller.scrollTop;
    if (Math.abs(top - scrollMargin) > 1) setScrollMargin(top);
  });
  const items = virtualizer.getVirtualItems();
  return {
    rows: items.map(({ index, start }, i) => ({ index, gap: start - (items[i - 1]?.end ?? scrollMargin) })),
    rest: virtualizer.getTotalSize() - ((items.at(-1)?.end ?? scrollMargin) - scrollMargin),
    measure: virtualizer.measureElement,
    show: virtualizer.scrollToIndex,
  };
}

function scrollerOf(table: HTMLTableElement | null): HTMLElement | null {
  return table?.closest('main') ?? null;
}

/** A row in place of those that are not drawn, within the body of a table. */
export function Gap({ height, columns }: { height: number; columns: number }) {
  if (height <= 0) return null;
  return (
    <tr aria-hidden>
      <td colSpan={columns} style={{ height }} />
    </tr>
  );
}
