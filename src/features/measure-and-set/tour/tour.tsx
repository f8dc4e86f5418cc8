'use client';

import { Popover } from 'radix-ui';
import { useEffect, useRef, useState } from 'react';
import { Button } from '@/ui/button';
import { tourMessages as messages } from './messages';

/** Where each step points, in order; marked on the page by `data-tour`. */
const STEPS = ['verdict', 'trace', 'rule', 'treatment', 'hand-over'] as const;

/** A walk over the desk that can be left at any step. */
export function Tour({ onLeave }: { onLeave: () => void }) {
  const [step, setStep] = useState(0);
  const name = STEPS[step] as (typeof STEPS)[number];
  const anchor = useRef<Element>(null);
  const [found, setFound] = useState<string>();
  useEffect(() => {
    const target = document.querySelector(`[data-tour="${name}"]`);
    target?.setAttribute('data-toured', '');
    anchor.current = target;
    setFound(name);
    return () => target?.removeAttribute('data-toured');
  }, [name]);
  if (found !== name) return null;
  const { title, text } = messages.steps[name];
  const isLast = step === STEPS.length - 1;
  return (
    <Popover.Root open onOpenChange={(isOpen) => !isOpen && onLeave()}>
      <Popover.Anchor virtualRef={anchor as React.RefObject<Element>} />
      <Popover.Portal>
        <Popover.Content
          key={name}
          aria-label={messages.tour}
          sideOffset={8}
          collisionPadding={12}
          // What the step speaks of may be tried meanwhile.
          onInteractOutside={(event) => event.preventDefault()}
          className="z-40 flex w-80 flex-col gap-2 rounded-card border border-slide-ink bg-sheet p-4 shadow-lg"
        >
          <p className="flex items-baseline justify-between gap-4 text-sm font-bold">
            {title}{' '}
            <span className="font-mono text-xs font-normal text-mute">{messages.at(step + 1, STEPS.length)}</span>
          </p>
          <p className="text-[13px]">{text}</p>
          <div className="flex justify-end gap-2">
            {isLast ? null : (
              <Button kind="quiet" className="mr-auto" onClick={onLeave}>
                {messages.leave}
              </Button>
            )}
            {step > 0 ? (
              <Button onClick={() => setStep(step - 1)} className="py-1">
                {messages.back}
              </Button>
            ) : null}
            <Button kind="primary" onClick={() => (isLast ? onLeave() : setStep(step + 1))} className="py-1">
              {isLast ? messages.done : messages.next}
            </Button>
          </div>
          <Popover.Arrow className="fill-slide-ink" />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
