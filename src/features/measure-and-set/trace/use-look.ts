'use client';

import { useMemo, useState } from 'react';
import type { Look } from './picture';
import type { Height } from './scales';
import { useColours } from './use-colours';

/** How the trace is drawn: its heights, its channels, its colours. */
export function useLook() {
  const colours = useColours();
  const [height, setHeight] = useState<Height>('decibels');
  const [isApart, setApart] = useState(false);
  const look = useMemo((): Look | null => (colours ? { height, isApart, colours } : null), [height, isApart, colours]);
  return {
    look,
    height,
    isApart,
    toggleHeight: () => setHeight(height === 'linear' ? 'decibels' : 'linear'),
    toggleApart: () => setApart(!isApart),
  };
}
