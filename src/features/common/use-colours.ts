'use client';

import { useEffect, useState } from 'react';
import { COLOUR_NAMES, type Colours } from './colours';

/** The page's colours as a canvas needs them, in the theme that holds now; undefined before the page is there. */
export function useColours(): Colours | undefined {
  const [colours, setColours] = useState<Colours>();
  useEffect(() => {
    const read = () => setColours(readColours());
    read();
    const dark = window.matchMedia('(prefers-color-scheme: dark)');
    const observer = new MutationObserver(read);
    observer.observe(document.documentElement, { attributes: true, attributeFilter: ['data-theme'] });
    dark.addEventListener('change', read);
    return () => {
      observer.disconnect();
      dark.removeEventListener('change', read);
    };
  }, []);
  return colours;
}

/** A token may hold a colour for each theme: only the browser knows which it is now. */
function readColours(): Colours {
  const probe = document.createElement('i');
  // A canvas has the page's own colours, where the system chooses those of everything else too.
  probe.style.forcedColorAdjust = 'none';
  // Where motion is reduced every change takes a moment, and the colour read would be the one before.
  probe.style.transitionProperty = 'none';
  document.body.append(probe);
  const entries = COLOUR_NAMES.map((name) => {
    probe.style.color = `var(--color-${name})`;
    return [name, getComputedStyle(probe).color] as const;
  });
  probe.remove();
  return Object.fromEntries(entries) as Colours;
}
