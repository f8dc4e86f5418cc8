'use client';

import { type ComponentProps, useEffect, useState } from 'react';
import { Button } from '@/ui/button';

/** Longer than between the clicks of one double click. */
const LATE_MS = 700;

/** A button that appears where another was pressed: it can be pressed only after a moment, so that nobody undoes at once what they did. */
export function LateButton(props: ComponentProps<typeof Button>) {
  const [isReady, setIsReady] = useState(false);
  useEffect(() => {
    const timer = setTimeout(() => setIsReady(true), LATE_MS);
    return () => clearTimeout(timer);
  }, []);
  return <Button {...props} disabled={!isReady || props.disabled === true} />;
}
