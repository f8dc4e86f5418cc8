'use client';

import { useEffect } from 'react';

/** Has the browser ask before the page is left, as long as something on it would be lost. */
export function useLeaveWarning(wouldLose: boolean): void {
  useEffect(() => {
    if (!wouldLose) return;
    const warn = (event: BeforeUnloadEvent) => event.preventDefault();
    window.addEventListener('beforeunload', warn);
    return () => window.removeEventListener('beforeunload', warn);
  }, [wouldLose]);
}
