'use client';

import { useEffect, useRef } from 'react';
import { specOptions, useSpecs } from '@/features/common/specs';
import type { TakeInListing, TakeInShown } from '@/server/jobs/take-in-list';
import { Choice } from '@/ui/choice';
import { findBarMessages as messages } from './messages';

const SHOWN: readonly { value: TakeInShown; label: string }[] = [
  { value: 'all', label: messages.all },
  { value: 'misses', label: messages.misses },
  { value: 'inside', label: messages.inside },
  { value: 'findings', label: messages.findings },
  { value: 'waiting', label: messages.waiting },
];

/** Which programmes are listed: by words, and by how they stand against the spec. */
export function FindBar({
  listing,
  onListing,
  listed,
  all,
  specId,
  onSpec,
}: {
  listing: TakeInListing;
  onListing: (listing: TakeInListing) => void;
  listed: number;
  all: number;
  specId: string;
  onSpec: (specId: string) => void;
}) {
  const specs = useSpecs();
  const field = useRef<HTMLInputElement>(null);
  useEffect(() => {
    const hear = (event: KeyboardEvent) => {
      const isTyping =
        event.target instanceof HTMLElement &&
        event.target.closest('input:not([type="checkbox"]), textarea, [role="dialog"]');
      if (event.key !== '/' || isTyping || event.ctrlKey || event.metaKey || event.altKey) return;
      event.preventDefault();
      field.current?.focus();
    };
    window.addEventListener('keydown', hear);
    return () => window.removeEventListener('keydown', hear);
  }, []);
  return (
    <search className="flex flex-wrap items-center gap-3 border-b border-hair px-4 py-2">
      <input
        ref={field}
        type="search"
        value={listing.find}
        aria-label={messages.find}
        placeholder={messages.findBy}
        aria-keyshortcuts="/"
        title={messages.findHint}
        onChange={(event) => onListing({ ...listing, find: event.target.value })}
        onKeyDown={(event) => event.key === 'Escape' && onListing({ ...listing, find: '' })}
        className="w-72 rounded-control border border-stock-3 bg-sheet px-3 py-1.5 text-sm placeholder:text-mute hover:border-stock-ink"
      />
      <Choice
        label={messages.show}
        value={listing.show}
        options={SHOWN}
        onChange={(value) => onListing({ ...listing, show: value as TakeInShown })}
      />
      <Choice label={messages.spec} value={specId} options={specOptions(specs)} onChange={onSpec} />
      <p role="status" className="text-sm text-mute">
        {listed === all ? '' : listed === 0 ? messages.none : messages.listed(listed, all)}
      </p>
    </search>
  );
}
