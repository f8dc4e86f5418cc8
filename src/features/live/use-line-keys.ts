import { useEffect } from 'react';
import type { LineControl } from '@/server/http/line-operations';
import type { LiveLine } from '@/server/lines/live-lines';

/** What a key does on the page of a line. A recording is begun by key, but stopped by hand only. */
function wishOf(key: string, { state, isHeld, recording, format }: LiveLine): LineControl | undefined {
  if (state === 'off') return undefined;
  switch (key) {
    case 'm':
      return { do: 'marker' };
    case 'p':
      return { do: isHeld ? 'continue' : 'pause' };
    case 'Backspace':
      return { do: 'reset' };
    case 'r':
      return recording || !format ? undefined : { do: 'record', bitDepth: 24, preRollSeconds: 0 };
    default:
      return undefined;
  }
}

export function useLineKeys(isOn: boolean, live: LiveLine, onWish: (wish: LineControl) => void): void {
  useEffect(() => {
    if (!isOn) return;
    const press = (event: KeyboardEvent) => {
      const isTyping = event.target instanceof Element && event.target.closest('input, textarea, select, [role=menu]');
      if (isTyping || event.repeat || event.ctrlKey || event.metaKey || event.altKey) return;
      const wish = wishOf(event.key.length === 1 ? event.key.toLowerCase() : event.key, live);
      if (!wish) return;
      event.preventDefault();
      onWish(wish);
    };
    window.addEventListener('keydown', press);
    return () => window.removeEventListener('keydown', press);
  }, [isOn, live, onWish]);
}
