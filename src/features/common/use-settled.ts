'use client';

import { useEffect, useState } from 'react';

/** Asks that come close together, as from a drag, are one. */
const SETTLE_MS = 120;

/** A value once it has stood still; the first at once. */
export function useSettled<T>(value: T): T {
  const [settled, setSettled] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(value), SETTLE_MS);
    return () => clearTimeout(timer);
  }, [value]);
  return settled;
}
