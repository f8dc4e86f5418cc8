import { Popover } from 'radix-ui';
import type { ReactNode } from 'react';

/** A word in a line that opens a card beside it. */
export function Popup({ name, children }: { name: string; children: ReactNode }) {
  return (
    <Popover.Root>
      <Popover.Trigger className="cursor-pointer rounded-sm font-semibold text-slide-ink hover:underline">
        {name}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          aria-label={name}
          align="end"
          sideOffset={6}
          className="z-30 rounded-card border border-hair bg-sheet p-4 text-[13px] shadow-lg"
        >
          {children}
          <Popover.Arrow className="fill-hair" />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
