'use client';

import { Popover } from 'radix-ui';
import { useSpecs } from '@/features/common/specs';
import { stackedSpecsMessages as messages } from './messages';

/** As many as leave room for everything else. */
const MOST_STACKED = 3;

/** Chooses specs that are to be met as well: their stocks lie over the same slide. */
export function StackedSpecs({
  mainId,
  chosen,
  onChange,
}: {
  mainId: string;
  chosen: readonly string[];
  onChange: (ids: string[]) => void;
}) {
  const specs = useSpecs();
  const isFull = chosen.length >= MOST_STACKED;
  return (
    <Popover.Root>
      <Popover.Trigger
        title={messages.compareHint}
        aria-label={chosen.length === 0 ? messages.compareWithMoreSpecs : undefined}
        className="cursor-pointer rounded-sm text-xs font-semibold text-slide-ink hover:underline"
      >
        {chosen.length > 0 ? (
          messages.comparedWith(chosen.length)
        ) : (
          <>
            <span className="2xl:hidden">{messages.compare}</span>
            <span className="max-2xl:hidden">{messages.compareWithMoreSpecs}</span>
          </>
        )}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          aria-label={messages.compareHeading}
          align="end"
          sideOffset={6}
          className="z-30 flex max-h-96 flex-col gap-1 overflow-y-auto rounded-card border border-hair bg-sheet p-3.5 text-[13px] shadow-lg"
        >
          <p className="mb-1 text-xs text-mute">{messages.compareHint}</p>
          {specs
            .filter(({ id }) => id !== mainId)
            .map(({ id, name }) => (
              <label
                key={id}
                title={isFull && !chosen.includes(id) ? messages.noMore : undefined}
                className="flex items-center gap-2"
              >
                <input
                  type="checkbox"
                  checked={chosen.includes(id)}
                  disabled={isFull && !chosen.includes(id)}
                  onChange={(event) =>
                    onChange(event.target.checked ? [...chosen, id] : chosen.filter((own) => own !== id))
                  }
                  className="size-3.5 accent-(--color-action)"
                />
                {name}
              </label>
            ))}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
