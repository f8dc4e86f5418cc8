'use client';

import { Tooltip } from 'radix-ui';
import type { ReactElement } from 'react';

export const HintProvider = Tooltip.Provider;

/** A word more on something small, by pointer or focus. */
export function Hint({ text, children }: { text: string; children: ReactElement }) {
  return (
    <Tooltip.Root>
      <Tooltip.Trigger asChild>{children}</Tooltip.Trigger>
      <Tooltip.Portal>
        <Tooltip.Content
          sideOffset={6}
          className="z-30 max-w-xs rounded-control bg-bar px-3 py-2 text-xs text-on-action shadow-lg"
        >
          {text}
          <Tooltip.Arrow className="fill-bar" />
        </Tooltip.Content>
      </Tooltip.Portal>
    </Tooltip.Root>
  );
}
