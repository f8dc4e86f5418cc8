'use client';

import { useCallback, useEffect, useState } from 'react';

/** What takes a change back. */
type Undo = () => void;

const MOST_UNDONE = 100;

/** Changes that were made on this page, to be taken back one by one, by hand or with Ctrl Z. */
export function useUndo(): { canUndo: boolean; undo: () => void; remember: (undo: Undo) => void } {
  const [past, setPast] = useState<readonly Undo[]>([]);
  const last = past.at(-1);
  const undo = useCallback(() => {
    if (!last) return;
    setPast((before) => before.filter((own) => own !== last));
    last();
  }, [last]);
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      if (event.key.toLowerCase() !== 'z' || !(event.ctrlKey || event.metaKey) || event.shiftKey) return;
      if (event.target instanceof HTMLInputElement && event.target.type === 'text') return;
      event.preventDefault();
      undo();
    };
    window.addEventListener('keydown', press);
    return () => window.removeEventListener('keydown', press);
  }, [undo]);
  const remember = useCallback((own: Undo) => setPast((before) => [...before, own].slice(-MOST_UNDONE)), []);
  return { canUndo: last !== undefined, undo, remember };
}
