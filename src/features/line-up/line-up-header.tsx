'use client';

import type { ReactNode } from 'react';
import { specOptions, useSpecs } from '@/features/common/specs';
import type { LineUpView } from '@/server/line-ups/line-ups';
import { Button } from '@/ui/button';
import { Choice } from '@/ui/choice';
import { lineUpMessages as messages } from './messages';

/** What a line-up is, how it stands, its spec, and what is done to it as a whole. */
export function LineUpHeader({
  lineUp,
  about,
  specId,
  change,
  onEdit,
  onRemove,
  children,
}: {
  lineUp: LineUpView;
  about: string;
  specId: string;
  change: (lineUp: LineUpView, wanted: { specId: string }) => Promise<void>;
  onEdit: () => void;
  onRemove: () => void;
  /** How it stands. */
  children: ReactNode;
}) {
  const specs = useSpecs();
  return (
    <header className="flex flex-wrap items-start justify-between gap-3">
      <div className="min-w-0">
        <h1 className="truncate text-xl font-bold">{lineUp.name}</h1>
        <p className="text-xs text-mute">{about}</p>
      </div>
      <div className="flex flex-wrap items-center gap-2">
        {children}
        <Choice
          label={messages.spec}
          value={specId}
          options={specOptions(specs)}
          onChange={(next) => void change(lineUp, { specId: next })}
        />
        <Button onClick={onEdit}>{messages.edit}</Button>
        <Button onClick={onRemove}>{messages.removeLineUp}</Button>
      </div>
    </header>
  );
}
