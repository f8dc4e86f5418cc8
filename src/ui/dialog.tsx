'use client';

import { X } from 'lucide-react';
import { Dialog as RadixDialog } from 'radix-ui';
import { type ReactNode, useRef } from 'react';
import { classNames } from './class-names';
import { dialogMessages as messages } from './messages';

/** A sheet over the page, which waits until it is closed. */
export function Dialog({
  trigger,
  title,
  description,
  isOpen,
  onOpenChange,
  isWide = false,
  children,
}: {
  /** None where something else opens it. */
  trigger?: ReactNode;
  title: string;
  description: ReactNode;
  isOpen: boolean;
  onOpenChange: (isOpen: boolean) => void;
  isWide?: boolean;
  children: ReactNode;
}) {
  const opener = useRef<Element | null>(null);
  return (
    <RadixDialog.Root open={isOpen} onOpenChange={onOpenChange}>
      {trigger ? <RadixDialog.Trigger asChild>{trigger}</RadixDialog.Trigger> : null}
      <RadixDialog.Portal>
        <RadixDialog.Overlay className="fixed inset-0 z-30 bg-[#221d33]/45" />
        <RadixDialog.Content
          onOpenAutoFocus={() => {
            opener.current = document.activeElement;
          }}
          onCloseAutoFocus={(event) => {
            // Where nothing of its own opened it, whoever did has the focus again.
            if (trigger || !(opener.current instanceof HTMLElement) || !opener.current.isConnected) return;
            event.preventDefault();
            opener.current.focus();
          }}
          className={classNames(
            'fixed top-1/2 left-1/2 z-40 flex max-h-[86vh] -translate-1/2 flex-col gap-3 rounded-card border border-hair bg-sheet p-5 shadow-lg',
            isWide ? 'w-[min(60rem,94vw)]' : 'w-[min(44rem,92vw)]',
          )}
        >
          <header className="flex items-start justify-between gap-4">
            <div>
              <RadixDialog.Title className="text-base font-bold">{title}</RadixDialog.Title>
              <RadixDialog.Description className="text-xs text-mute">{description}</RadixDialog.Description>
            </div>
            <RadixDialog.Close
              aria-label={messages.close}
              className="cursor-pointer rounded-control p-1 hover:bg-stock-1"
            >
              <X size={18} aria-hidden />
            </RadixDialog.Close>
          </header>
          {children}
        </RadixDialog.Content>
      </RadixDialog.Portal>
    </RadixDialog.Root>
  );
}
