'use client';

import { useMemo, useState } from 'react';
import { useColours } from '@/features/common/use-colours';
import type { Look } from './picture';
import type { Height } from './scales';

/** How the trace is drawn: its heights, its channels, its colours. */
export function useLook() {
  const colours = useColours();
  const [height, setHeight] = useState<Height>('decibels');
  const [isSeparate, setSeparate] = useState(false);
  const look = useMemo(
    (): Look | null => (colours ? { height, isSeparate, colours } : null),
    [height, isSeparate, colours],
  );
  return {
    look,
    height,
    isSeparate,
    toggleHeight: () => setHeight(height === 'linear' ? 'decibels' : 'linear'),
    toggleSeparate: () => setSeparate(!isSeparate),
  };
}
